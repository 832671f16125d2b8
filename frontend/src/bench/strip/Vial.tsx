/* The vial: a long graduated tube. Its bubble says how the picture is turned about an axis; drag it
   or nudge it by key; a double click takes it back to what the readings say. */
import { chakra } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Axis } from "../../api/client";
import { useSize } from "../../picture/useSize";
import { SvgBox } from "../../shared/SvgBox";
import { usePutBack } from "../../shared/usePutBack";
import type { Bench } from "../useBench";
import { useAxis, useTube } from "./useTube";

const Tube = chakra("div");
const END_PX = 34;
const FIFTHS = [-5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5];
/** What a figure takes, with some air. */
const FIGURE_PX = 28;
const HALF = { roll: 18, lean: 14, swing: 14 };

interface Props {
  bench: Bench;
  axis: Axis;
  onTurning: (turning: boolean) => void;
}

export function Vial({ bench, axis, onTurning }: Props) {
  const [ref, { width }] = useSize<HTMLDivElement>();
  const { applied_deg: applied, trimmed } = bench.solution.stance[axis];
  const words = bench.report[axis];
  const { name, ways, limit_deg: limit } = useAxis(axis);
  const either = t("{one} or {other}", { one: ways[0], other: ways[1] });
  const { range, at, drag, onKeyDown } = useTube({
    bench,
    axis,
    width,
    endPx: END_PX,
    onTurning,
  });
  const putBack = usePutBack(() => {
    if (trimmed) void bench.acts.record({ do: "reset_trim", axis });
  });
  const least = -limit;
  const step = range / 5;
  // Where there is no room for all figures, the ends and the middle have theirs.
  const figures = at(step) - at(0) < FIGURE_PX ? [-range, 0, range] : FIFTHS.map((i) => i * step);
  const marks = Array.from({ length: 51 }, (_, i) => (i - 25) * (range / 25));
  const [less, more] = axis === "roll" ? ["↺ ", " ↻"] : [`${ways[0]} `, ` ${ways[1]}`];
  return (
    <Tube
      ref={ref}
      role="slider"
      tabIndex={0}
      data-axis={axis}
      aria-label={name}
      aria-valuemin={least}
      aria-valuemax={limit}
      aria-valuenow={Number(applied.toFixed(2))}
      aria-valuetext={words.applied}
      title={
        axis === "roll"
          ? t(
              "Drag to turn the picture; with Alt ten times finer. Arrow keys nudge. A double click takes it back.",
            )
          : t(
              "How far the camera pointed {ways}. Drag; with Alt ten times finer. A double click takes it back.",
              { ways: either },
            )
      }
      cursor="ew-resize"
      touchAction="none"
      borderRadius="12px"
      {...putBack}
      {...drag()}
      onKeyDown={axis === "roll" ? undefined : onKeyDown}
    >
      <SvgBox width="100%" height="46px" display="block" color="ink">
        <rect
          x="1"
          y="1"
          width={Math.max(width - 2, 0)}
          height="22"
          rx="11"
          fill="var(--tube)"
          stroke="currentColor"
          strokeWidth="1.2"
        />
        <path
          d={`M${width / 2 - HALF[axis]},1v22M${width / 2 + HALF[axis]},1v22`}
          stroke="currentColor"
        />
        <g transform={`translate(${at(applied)} 0)`}>
          <ellipse cy="12" rx="15" ry="7.6" fill="var(--bubble)" stroke="var(--rim)" />
          <ellipse cx="-4" cy="9.2" rx="5" ry="1.6" fill="#fff" fillOpacity=".6" />
        </g>
        {marks.map((deg, i) => (
          <path key={i} d={`M${at(deg)},26v${i % 5 === 0 ? 6 : 3}`} stroke="var(--soft)" />
        ))}
        {figures.map((deg) => (
          <text
            key={deg}
            x={at(deg)}
            y="43"
            textAnchor="middle"
            fontSize="11"
            fill="var(--soft)"
            fontFamily="IBM Plex Mono, monospace"
          >
            {deg === -range ? less : ""}
            {Math.abs(deg)}°{deg === range ? more : ""}
          </text>
        ))}
      </SvgBox>
    </Tube>
  );
}
