/* What an edit would come to, seen before it is done: while the pointer rests on what would do it,
   or the keys have come to it. Nothing is kept by looking. */
import { useEffect, useRef, type FocusEvent, type PointerEvent } from "react";
import type { Edit } from "../api/client";
import type { Acts } from "./useBench";

/** A pointer that only passes looks at nothing. */
const RESTS_MS = 160;

/** Where the pointer was when it moved last. */
const last = { x: NaN, y: NaN };
const remember = (event: globalThis.PointerEvent) => {
  last.x = event.clientX;
  last.y = event.clientY;
};

/** What a control needs so that its edit is looked at. */
export function useLook(acts: Acts) {
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const looking = useRef(false);
  const wait = () => clearTimeout(timer.current);
  const away = () => {
    wait();
    looking.current = false;
    acts.preview();
  };
  useEffect(() => {
    document.addEventListener("pointermove", remember, { capture: true, passive: true });
    return () => {
      clearTimeout(timer.current);
      acts.preview();
    };
  }, [acts]);
  const rest = ({ pointerType }: PointerEvent, edit: Edit) => {
    if (pointerType === "touch" || looking.current) return;
    wait();
    timer.current = setTimeout(() => {
      looking.current = true;
      acts.preview(edit);
    }, RESTS_MS);
  };
  return (edit: Edit) => ({
    onPointerEnter: (event: PointerEvent) => {
      // What comes to lie under a pointer that did not move is not what it points at.
      if (event.clientX !== last.x || event.clientY !== last.y) rest(event, edit);
    },
    onPointerMove: (event: PointerEvent) => {
      if (event.movementX !== 0 || event.movementY !== 0) rest(event, edit);
    },
    onPointerDown: wait,
    onPointerLeave: away,
    onFocus: ({ currentTarget }: FocusEvent) =>
      currentTarget.matches(":focus-visible") && acts.preview(edit),
    onBlur: away,
  });
}
