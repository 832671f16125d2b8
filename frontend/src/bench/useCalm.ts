/* The bench a moment later, for what only tells about it: while the hand moves it waits for a
   pause, so that the picture has the processor; at rest it is the bench itself. */
import { useDeferredValue, useEffect, useRef, useState } from "react";
import type { Bench } from "./useBench";

/** A pause of the hand, and how long it is waited for. */
const PAUSE_MS = 120;
const PATIENCE_MS = 1000;

export function useCalm(bench: Bench): Bench {
  const [told, setTold] = useState(bench);
  const since = useRef<number>(undefined);
  // What is only looked at moves no hand.
  const rests = bench.atRest || bench.looking;
  // What held before the hand began, and not what an earlier hand came to.
  if (rests && told !== bench) setTold(bench);
  useEffect(() => {
    if (rests) {
      since.current = undefined;
      return;
    }
    since.current ??= performance.now();
    const left = since.current + PATIENCE_MS - performance.now();
    const pause = setTimeout(
      () => {
        since.current = undefined;
        setTold(bench);
      },
      Math.max(0, Math.min(PAUSE_MS, left)),
    );
    return () => clearTimeout(pause);
  }, [bench, rests]);
  return useDeferredValue(told);
}
