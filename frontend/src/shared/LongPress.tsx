/* What a tooltip says, told to a finger that rests: it has no place to hover. What it rests on is
   not pressed. */
import { Box } from "@chakra-ui/react";
import { useEffect, useState } from "react";

/** Said to the window when a finger was told something. */
export const PRESSED_LONG = "sequor:pressed-long";

const RESTS_MS = 500;
/** A finger that moves farther is about something else. */
const STILL_PX = 10;
const WIDTH_PX = 260;

interface Told {
  words: string;
  left: number;
  top: number;
  above: boolean;
}

export function LongPress() {
  const [told, setTold] = useState<Told>();
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let from: PointerEvent | undefined;
    let rested = false;
    let mouse = true;
    const leave = () => {
      clearTimeout(timer);
      from = undefined;
    };
    const press = (event: PointerEvent) => {
      setTold(undefined);
      rested = false;
      mouse = event.pointerType === "mouse";
      if (mouse) return;
      from = event;
      timer = setTimeout(() => {
        const words = wordsAt(event.target);
        if (!words) return;
        rested = true;
        window.dispatchEvent(new Event(PRESSED_LONG));
        const above = event.clientY > window.innerHeight / 2;
        setTold({
          words,
          left: Math.min(
            Math.max(event.clientX - WIDTH_PX / 2, 8),
            window.innerWidth - WIDTH_PX - 8,
          ),
          top: event.clientY + (above ? -28 : 28),
          above,
        });
      }, RESTS_MS);
    };
    const move = (event: PointerEvent) => {
      if (from && Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) > STILL_PX)
        leave();
    };
    const click = (event: Event) => {
      if (!rested) return;
      rested = false;
      event.preventDefault();
      event.stopPropagation();
    };
    const menu = (event: Event) => {
      if (!mouse && (rested || wordsAt(event.target))) event.preventDefault();
    };
    const listeners: [string, (event: never) => void][] = [
      ["pointerdown", press],
      ["pointermove", move],
      ["pointerup", leave],
      ["pointercancel", leave],
      ["click", click],
      ["contextmenu", menu],
    ];
    for (const [name, listener] of listeners)
      window.addEventListener(name, listener as EventListener, true);
    return () => {
      clearTimeout(timer);
      for (const [name, listener] of listeners)
        window.removeEventListener(name, listener as EventListener, true);
    };
  }, []);
  if (!told) return null;
  return (
    <Box
      role="tooltip"
      position="fixed"
      zIndex="tooltip"
      width={`${WIDTH_PX}px`}
      bg="ink"
      color="paper"
      px="12px"
      py="8px"
      borderRadius="4px"
      fontSize="13px"
      pointerEvents="none"
      style={{ left: told.left, top: told.top, transform: told.above ? "translateY(-100%)" : "" }}
    >
      {told.words}
    </Box>
  );
}

/** What the tooltip of an element, or of what it lies in, says. */
function wordsAt(target: EventTarget | null): string | undefined {
  // In a field a long press is the system's: it marks and pastes.
  if (!(target instanceof Element) || target.closest("input, textarea, select")) return undefined;
  const titled = target.closest("[title]");
  if (titled) return titled.getAttribute("title") || undefined;
  const drawn = target.closest("g, circle, rect, path")?.querySelector(":scope > title");
  return drawn?.textContent || undefined;
}
