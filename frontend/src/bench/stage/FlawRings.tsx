/* Rings about the places of a fill that stand out, numbered as the column tells them. */
import { useFillFacts } from "../corners/useFillFacts";
import type { Bench } from "../useBench";

const LEAST_PX = 9;

export function FlawRings({
  bench,
  box,
}: {
  bench: Bench;
  /** Where the frame lies on the stage. */
  box: { left: number; top: number; width: number; height: number };
}) {
  const facts = useFillFacts(bench);
  if (!bench.atRest) return null;
  return (facts.data?.flaws ?? []).map((flaw, i) => {
    const [x, y] = [box.left + flaw.x * box.width, box.top + flaw.y * box.height];
    const radius = Math.max(LEAST_PX, flaw.radius * box.width);
    return (
      <g key={`${flaw.kind} ${flaw.x} ${flaw.y}`} data-flaw={flaw.kind}>
        <circle cx={x} cy={y} r={radius} stroke="#1d1b16" strokeWidth="4" strokeOpacity=".55" />
        <circle cx={x} cy={y} r={radius} stroke="#fffdf8" strokeWidth="2" strokeDasharray="6 3" />
        <circle cx={x} cy={y} r={LEAST_PX} fill="#a83c25" />
        <text
          x={x}
          y={y}
          fill="#ffffff"
          fontSize="12"
          fontWeight="600"
          textAnchor="middle"
          dominantBaseline="central"
        >
          {i + 1}
        </text>
      </g>
    );
  });
}
