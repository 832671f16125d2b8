/* Whether the hand turns the picture just now, and a moment after. */
import { useEffect, useState } from "react";
import type { Bench } from "../useBench";

/** How long after the last turn the grid stays. */
const STAYS_MS = 700;

export function useTurning({ shown, atRest, looking }: Bench): boolean {
  const { roll, lean, swing } = shown.stance;
  const now = `${roll.applied_deg} ${lean.applied_deg} ${swing.applied_deg}`;
  const [before, setBefore] = useState(now);
  const [turning, setTurning] = useState(false);
  if (now !== before) {
    setBefore(now);
    if (!atRest && !looking) setTurning(true);
  }
  useEffect(() => {
    if (!turning) return;
    const timer = setTimeout(() => setTurning(false), STAYS_MS);
    return () => clearTimeout(timer);
  }, [before, turning]);
  return turning;
}
