/* The loupe runs along the reading that is lit, from end to end, until a hand stops it. */
import { useEffect, useState } from "react";
import type { Desk } from "../useDesk";

const RUNS_MS = 5000;

export function useRunAlong({ selected, along, lookAlong, lookAway }: Desk) {
  const [running, setRunning] = useState(false);
  // It ends where another reading is lit, or nothing is looked at any more.
  if (running && along === undefined) setRunning(false);
  useEffect(() => {
    if (!running || along === undefined) return;
    const start = performance.now();
    const frame = requestAnimationFrame((now) => {
      const next = along + Math.max(now - start, 8) / RUNS_MS;
      if (next >= 1) lookAway();
      else lookAlong(next);
    });
    return () => cancelAnimationFrame(frame);
  });
  return {
    canRun: selected !== undefined,
    running,
    toggle: () => {
      if (running) return lookAway();
      lookAlong(0);
      setRunning(true);
    },
  };
}
