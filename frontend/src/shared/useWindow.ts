/* What there is room for, by the size of the window. */
import { useMediaQuery } from "@chakra-ui/react";

const NARROW = "(max-width: 999px)";
const QUERIES = [
  NARROW,
  `${NARROW} and (max-aspect-ratio: 1/1)`,
  "(max-width: 719px)",
  "(max-height: 599px)",
  "(pointer: coarse)",
  "(any-pointer: coarse)",
];

export interface Room {
  /** Too narrow for all controls in one bar. */
  narrow: boolean;
  /** Higher than wide: what lies beside the picture elsewhere is drawn up from below. */
  upright: boolean;
  /** As narrow as a telephone, or as a small window of somebody who reads at twice the size. */
  slim: boolean;
  /** As low as a telephone on its side, or nearly. */
  low: boolean;
  /** There is a finger rather than a mouse, and mostly no keys. */
  coarse: boolean;
  /** A finger may come, whatever else there is. */
  fingers: boolean;
}

export function useRoom(): Room {
  const [
    narrow = false,
    upright = false,
    slim = false,
    low = false,
    coarse = false,
    fingers = false,
  ] = useMediaQuery(QUERIES, { ssr: false });
  return { narrow, upright, slim, low, coarse, fingers };
}
