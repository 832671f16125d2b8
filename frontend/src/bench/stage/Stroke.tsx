/* A stroke of the brush, as wide as it is: a thin outline, so that what is under it is seen. */
import { useId } from "react";
import type { Point } from "../../picture/geometry";

interface Props {
  points: Point[];
  reach: number;
  colour?: string;
}

export function Stroke({ points, reach, colour = "#9fe0d4" }: Props) {
  const inside = useId();
  const [first] = points;
  if (!first) return null;
  const d = strokePath(points);
  const drawn = { d, strokeLinecap: "round", strokeLinejoin: "round" } as const;
  return (
    <>
      <mask id={inside} maskUnits="userSpaceOnUse" x="-9999" y="-9999" width="29999" height="29999">
        <path {...drawn} stroke="#fff" strokeWidth={2 * reach + 2} />
        <path {...drawn} stroke="#000" strokeWidth={Math.max(0, 2 * reach - 2)} />
      </mask>
      <g mask={`url(#${inside})`}>
        <path {...drawn} stroke="#1d1b16" strokeWidth={2 * reach + 2} />
        <path {...drawn} stroke={colour} strokeWidth={2 * reach + 2} strokeOpacity=".9" />
      </g>
    </>
  );
}

/** A path along points; of one point it is a dot, which a round end makes a disc. */
export const strokePath = (points: Point[]): string =>
  `M${points.map(([x, y]) => `${x},${y}`).join("L")}${points.length === 1 ? "h0.01" : ""}`;
