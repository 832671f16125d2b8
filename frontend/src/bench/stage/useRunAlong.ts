/* The loupe runs along the reading that is lit, from end to end, until a hand stops it. */
import { useEffect, useState } from "react";
import type { Desk } from "../useDesk";

const RUNS_MS = 5000;

export function useRunAlong({ selected, along, lookAlong, lookAway }: Desk) {
  /** When it began. */
  const [began, setBegan] = useState<number>();
  const running = began !== undefined && along !== undefined;
  // It ends where another reading is lit, or nothing is looked at any more.
  if (began !== undefined && along === undefined) setBegan(undefined);
  useEffect(() => {
    if (began === undefined) return;
    const frame = requestAnimationFrame(() => {
      const share = (performance.now() - began) / RUNS_MS;
      if (share >= 1) lookAway();
      else lookAlong(share);
    });
    return () => cancelAnimationFrame(frame);
  });
  return {
    canRun: selected !== undefined,
    running,
    toggle: () => {
      if (running) return lookAway();
      lookAlong(0);
      setBegan(performance.now());
    },
  };
}
