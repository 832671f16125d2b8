/* Long lists: only the rows that are seen are there. A component that uses this opts out of the
   compiler's memoizing ("use no memo"), since the rows change without changing their identity. */
import { useVirtualizer } from "@tanstack/react-virtual";
import type { RefObject } from "react";

/** Rows above and below those that are seen: so many are ready when a wheel turns. */
const OVERSCAN = 6;

interface Rows {
  count: number;
  scroller: RefObject<HTMLElement | null>;
  height: number;
  /** Pixels above the first row that scroll with it. */
  above?: number;
}

export function useRows({ count, scroller, height, above = 0 }: Rows) {
  "use no memo";
  // eslint-disable-next-line react-hooks/incompatible-library
  return useVirtualizer<HTMLElement, HTMLElement>({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    scrollMargin: above,
    overscan: OVERSCAN,
  });
}
