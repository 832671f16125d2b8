/* What an edit would come to, seen before it is done: while the pointer rests on what would do it,
   or the keys have come to it. Nothing is kept by looking. */
import { useEffect, useRef, type FocusEvent, type PointerEvent } from "react";
import type { Edit } from "../api/client";
import type { Acts } from "./useBench";

/** A pointer that only passes looks at nothing. */
const RESTS_MS = 160;

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
  useEffect(
    () => () => {
      clearTimeout(timer.current);
      acts.preview();
    },
    [acts],
  );
  return (edit: Edit) => ({
    onPointerMove: ({ pointerType, movementX, movementY }: PointerEvent) => {
      // What comes to lie under a pointer that did not move is not what it points at.
      const moved = movementX !== 0 || movementY !== 0;
      if (pointerType === "touch" || looking.current || !moved) return;
      wait();
      timer.current = setTimeout(() => {
        looking.current = true;
        acts.preview(edit);
      }, RESTS_MS);
    },
    onPointerDown: wait,
    onPointerLeave: away,
    onFocus: ({ currentTarget }: FocusEvent) =>
      currentTarget.matches(":focus-visible") && acts.preview(edit),
    onBlur: away,
  });
}
