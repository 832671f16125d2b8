/* Keys that work all over the page, by what is printed on them; not while something is typed or a
   window is open. */
import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

const FIELDS = "input:not([type=radio]):not([type=checkbox]):not([type=range]), select, textarea";
const TYPED = `${FIELDS}, [role=dialog]`;

/** Anything that Enter, Space or an arrow key means something to. */
export const TAKES_KEYS =
  "button, a, input, select, [role=slider], [role=button], [role=radiogroup]";

export const within = (event: { target: EventTarget | null }, selector: string): boolean =>
  event.target instanceof Element && event.target.closest(selector) !== null;

interface On {
  keyup?: boolean;
  /** With Ctrl, or the command key. */
  ctrl?: boolean;
}

/** `act` when one of the keys is pressed, with or without Shift and Alt. */
export function useKeys(
  keys: string[],
  act: (event: KeyboardEvent) => void,
  { keyup = false, ctrl = false }: On = {},
) {
  useHotkeys(keys, act, {
    useKey: true,
    ignoreModifiers: true,
    splitKey: "&",
    enableOnFormTags: true,
    keydown: !keyup,
    keyup,
    ignoreEventWhen: (event) =>
      within(event, TYPED) || (!keyup && ctrl !== (event.ctrlKey || event.metaKey)),
  });
}

interface Held {
  /** Not where it means something else. */
  unless?: string;
  /** Also while a window is open, which it belongs to. */
  inWindow?: boolean;
}

/** Whether a key is down. */
export function useHeld(key: string, { unless, inWindow = false }: Held = {}): boolean {
  const [held, setHeld] = useState(false);
  useHotkeys(key, (event) => setHeld(event.type === "keydown"), {
    useKey: key.length === 1,
    ignoreModifiers: true,
    enableOnFormTags: true,
    keydown: true,
    keyup: true,
    ignoreEventWhen: (event) =>
      event.type === "keydown" &&
      (within(event, inWindow ? FIELDS : TYPED) ||
        event.ctrlKey ||
        event.metaKey ||
        (unless !== undefined && within(event, unless))),
  });
  return held;
}

/** Which way an arrow key points, in steps to the right and down. */
export function arrow(event: { key: string; ctrlKey: boolean }): [number, number] | undefined {
  if (event.ctrlKey) return undefined;
  return (
    { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] } as Record<
      string,
      [number, number]
    >
  )[event.key];
}

/** How far one press moves: everywhere ten times as far with Shift, a tenth with Alt. */
export const stepOf = (event: { shiftKey: boolean; altKey: boolean }, step: number): number =>
  event.shiftKey ? step * 10 : event.altKey ? step / 10 : step;
