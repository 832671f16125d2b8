/* A double click, or a long press where there is no mouse, puts a control back to how it begins. */
import { useEffect, useRef, type PointerEvent } from "react";

const LONG_MS = 600;
/** A finger never rests quite still. */
const STILL_PX = 8;

export function usePutBack(act: () => void) {
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const from = useRef<[number, number]>([0, 0]);
  const stop = () => clearTimeout(timer.current);
  useEffect(() => stop, []);
  return {
    onDoubleClick: act,
    onPointerDownCapture: ({ pointerType, clientX, clientY }: PointerEvent) => {
      stop();
      from.current = [clientX, clientY];
      if (pointerType !== "mouse") timer.current = setTimeout(act, LONG_MS);
    },
    onPointerMoveCapture: ({ clientX, clientY }: PointerEvent) => {
      const [x, y] = from.current;
      if (Math.hypot(clientX - x, clientY - y) > STILL_PX) stop();
    },
    onPointerUpCapture: stop,
    onPointerCancelCapture: stop,
  };
}
