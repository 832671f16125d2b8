/* Guides: straight level or plumb lines that stand still on the stage. Each shows the angle to the
   edge that lies under it. */
import { chakra } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { t } from "../../shared/words";
import type { Direction } from "../../api/client";
import { arrow, stepOf } from "../../shared/keys";
import { useRoom } from "../../shared/useWindow";
import { clamp, inverse, mapped, type Point } from "../../picture/geometry";
import type { Bench } from "../useBench";
import { REACH_PX } from "./tools";
import type { View } from "./useView";

export interface Guide {
  id: string;
  direction: Direction;
  /** Its grip, in shares of the stage, so that it stays when the window changes. */
  at: Point;
}

const Grip = chakra("g");
const HALF_PX = 90;
const REST_MS = 160;

interface Props {
  guides: Guide[];
  onChange: (guides: Guide[]) => void;
  bench: Bench;
  view: View;
  size: { width: number; height: number };
}

export function Guides({ guides, onChange, bench, view, size }: Props) {
  return (
    <g>
      {guides.map((guide, index) => (
        <GuideLine
          key={guide.id}
          number={index + 1}
          guide={guide}
          bench={bench}
          view={view}
          size={size}
          onMove={(at) =>
            onChange(guides.map((other) => (other.id === guide.id ? { ...other, at } : other)))
          }
          onDelete={() => onChange(guides.filter((other) => other.id !== guide.id))}
        />
      ))}
    </g>
  );
}

interface LineProps extends Omit<Props, "guides" | "onChange"> {
  number: number;
  guide: Guide;
  onMove: (at: Point) => void;
  onDelete: () => void;
}

function GuideLine({ number, guide, bench, view, size, onMove, onDelete }: LineProps) {
  const { fingers } = useRoom();
  const level = guide.direction === "level";
  const [x, y] = [guide.at[0] * size.width, guide.at[1] * size.height];
  const words = useHeldAgainst(guide, [x, y], bench, view);
  const moveTo = (px: number, py: number) =>
    onMove([clamp(px / size.width, 0.01, 0.99), clamp(py / size.height, 0.01, 0.99)]);
  const drag = useDrag(
    ({ first, event, xy }) => {
      if (first) {
        event.stopPropagation();
        (event.currentTarget as SVGElement).focus();
      } else moveTo(...view.at(xy));
    },
    { pointer: { keys: false } },
  );
  const onKeyDown = (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way && event.key !== "Delete" && event.key !== "Backspace") return;
    event.preventDefault();
    event.stopPropagation();
    if (!way) return onDelete();
    const step = stepOf(event, 1);
    moveTo(x + way[0] * step, y + way[1] * step);
  };
  const line = level ? `M0,${y}H${size.width}` : `M${x},0V${size.height}`;
  const marks = level
    ? `M${x - HALF_PX},${y - 6}v12M${x + HALF_PX},${y - 6}v12`
    : `M${x - 6},${y - HALF_PX}h12M${x - 6},${y + HALF_PX}h12`;
  const labelWidth = 20 + words.length * 7.3;
  const lx = clamp(x + 16, 4, size.width - labelWidth - 26);
  const ly = clamp(y + 14, 4, size.height - 28);
  return (
    <Grip
      role="slider"
      tabIndex={0}
      aria-label={t("Guide {number}, {direction}", { number, direction: t(guide.direction) })}
      aria-valuenow={Math.round(level ? y : x)}
      aria-valuetext={words}
      cursor={level ? "ns-resize" : "ew-resize"}
      color="guideOnPicture"
      _focusVisible={{ outline: "none", color: "#ffd27d" }}
      {...drag()}
      onKeyDown={onKeyDown}
    >
      <path d={line} stroke="transparent" strokeWidth="14" />
      <path d={line} stroke="#000" strokeOpacity=".5" strokeWidth="2.6" />
      <path d={`${line}${marks}`} stroke="currentColor" strokeWidth="1.1" />
      <path d={marks} stroke="currentColor" strokeWidth="2" />
      {fingers && <circle cx={x} cy={y} r={REACH_PX} fill="transparent" />}
      <circle cx={x} cy={y} r="5" fill="currentColor" stroke="#1d2a38" strokeWidth="1.4" />
      <g transform={`translate(${lx} ${ly})`}>
        <rect width={labelWidth + 22} height="24" rx="4" fill="#1d2a38" fillOpacity=".92" />
        <text x="10" y="16.5" fill="#fffdf8" fontSize="12" fontFamily="IBM Plex Mono, monospace">
          {words}
        </text>
        <Grip
          role="button"
          aria-label={t("Remove guide {number}", { number })}
          cursor="pointer"
          onPointerDown={(event: PointerEvent) => event.stopPropagation()}
          onClick={onDelete}
        >
          <rect x={labelWidth} width="22" height="24" fill="transparent" />
          <text x={labelWidth + 6} y="17" fill="#fffdf8" fontSize="14">
            ×
          </text>
        </Grip>
      </g>
    </Grip>
  );
}

/** Asks, when guide and picture rest, what angle the edge under the guide has. */
function useHeldAgainst(guide: Guide, [x, y]: Point, bench: Bench, view: View): string {
  const [answer, setAnswer] = useState<{ key: string; words: string }>();
  const ends: [Point, Point] =
    guide.direction === "level"
      ? [
          [x - HALF_PX, y],
          [x + HALF_PX, y],
        ]
      : [
          [x, y - HALF_PX],
          [x, y + HALF_PX],
        ];
  const back = inverse(view.plane);
  const inPlane = ends.map((p) => mapped(back, p)) as [Point, Point];
  const key = JSON.stringify([inPlane, bench.state.entry_id]);
  const ask = useRef(bench.acts.heldAgainst);
  useEffect(() => {
    ask.current = bench.acts.heldAgainst;
  });
  const { atRest } = bench;
  useEffect(() => {
    if (!atRest) return;
    const timer = window.setTimeout(() => {
      const [held] = JSON.parse(key) as [[Point, Point]];
      ask.current(guide.direction, held).then(
        ({ words }) => setAnswer({ key, words }),
        () => setAnswer({ key, words: t("not measured") }),
      );
    }, REST_MS);
    return () => window.clearTimeout(timer);
  }, [atRest, guide.direction, key]);
  return answer?.key === key ? answer.words : "…";
}
