/* The strokes under which places are made anew: outlined, numbered as the column lists them, and
   tied to where they are copied from. */
import type { Solution } from "../../api/client";
import { line, mapped, type Point } from "../../picture/geometry";
import { Stroke } from "./Stroke";
import type { View } from "./useView";

const SIGN_PX = 8;

export function MendMarks({
  marks,
  view,
}: {
  marks: Solution["marks"]["mends"];
  view: Pick<View, "plane" | "zoom">;
}) {
  const at = (point: readonly number[]) => mapped(view.plane, point as Point);
  return marks.map(({ points, reach, copied }, index) => {
    const places = points.map(at);
    const middle = places[Math.floor(places.length / 2)];
    if (!middle) return null;
    const from = copied && at(copied[0] as number[]);
    return (
      <g key={index} pointerEvents="none" data-mend={index + 1}>
        <Stroke points={places} reach={reach * view.zoom} />
        {from && (
          <>
            <path d={line([from, middle])} stroke="#1d1b16" strokeOpacity=".5" strokeWidth="3" />
            <path d={line([from, middle])} stroke="#9fe0d4" strokeDasharray="5 3" />
            <circle cx={from[0]} cy={from[1]} r="5" stroke="#9fe0d4" strokeWidth="2" />
          </>
        )}
        <circle cx={middle[0]} cy={middle[1]} r={SIGN_PX} fill="#1f6a5c" />
        <text
          x={middle[0]}
          y={middle[1]}
          fill="#ffffff"
          fontSize="11"
          fontWeight="600"
          textAnchor="middle"
          dominantBaseline="central"
        >
          {index + 1}
        </text>
      </g>
    );
  });
}
