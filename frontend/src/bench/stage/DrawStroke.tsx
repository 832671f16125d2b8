/* The brush: what a stroke of it covers is made anew, or does not bend. By key, the arrows move it
   and Enter dabs. */
import { chakra } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import { t } from "../../shared/words";
import { useOptions } from "../../api/options";
import type { BrushTool, Framing } from "../frame/useFraming";
import type { Bench } from "../useBench";
import { distance, inverse, mapped, type Point } from "../../picture/geometry";
import { arrow, stepOf } from "../../shared/keys";
import { Stroke } from "./Stroke";
import { BY_HAND } from "./useFrameHold";
import type { View } from "./useView";

const Brush = chakra("circle");
/** So far apart, in reaches of the brush, points of a stroke say something. */
const APART = 0.25;
const LEAST_PX = 2;
const STEP_PX = 4;

const LABELS: Record<BrushTool, string> = {
  mend: t("Brush: arrow keys move it, Enter makes anew what is under it"),
  still_brush: t("Brush: arrow keys move it, Enter keeps what is under it from bending"),
};

interface Props {
  tool: BrushTool;
  bench: Bench;
  view: View;
  framing: Framing;
  size: { width: number; height: number };
}

export function DrawStroke({ tool, bench, view, framing, size }: Props) {
  const { x, y, width, height } = bench.shown.frame;
  const { most_stroke_points: most } = useOptions();
  const [drawn, setDrawn] = useState<Point[]>();
  /** Where the brush is, in the plane: it stays there when the picture moves. */
  const [brush, setBrush] = useState<Point>([x + width / 2, y + height / 2]);
  const reach = framing.brush * Math.max(width, height);
  const shown = reach * view.zoom;
  const onPlane = (point: Point) => mapped(inverse(view.plane), point);
  const enter = (points: Point[]) =>
    void bench.acts.record({
      do: tool === "mend" ? "mend_place" : "brush_still",
      points,
      reach,
      seen: "corrected",
    });

  const drag = useDrag(({ first, last, canceled, event, xy, initial }) => {
    if (first) event.stopPropagation();
    const at = view.at(xy);
    setBrush(onPlane(at));
    const before = first ? [view.at(initial)] : (drawn ?? []);
    const end = before[before.length - 1];
    // Where it ends always counts.
    const far = last || !end || distance(end, at) >= Math.max(LEAST_PX, APART * shown);
    const points = far ? [...before, at] : before;
    if (!last) return setDrawn(points);
    setDrawn(undefined);
    if (!canceled) enter(thinned(points, most).map(onPlane));
  }, BY_HAND);
  const onKeyDown = (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way && event.key !== "Enter") return;
    event.preventDefault();
    event.stopPropagation();
    if (!way) return enter([brush]);
    const step = stepOf(event, STEP_PX) / view.zoom;
    setBrush([brush[0] + way[0] * step, brush[1] + way[1] * step]);
  };
  const [cx, cy] = mapped(view.plane, brush);
  return (
    <g>
      <rect
        width={size.width}
        height={size.height}
        fill="transparent"
        style={{ cursor: "none" }}
        data-draw={tool}
        // The brush keeps the keys.
        onMouseDown={(event) => event.preventDefault()}
        onPointerMove={({ clientX, clientY }: PointerEvent) =>
          setBrush(onPlane(view.at([clientX, clientY])))
        }
        {...drag()}
      />
      {drawn && <Stroke points={drawn} reach={shown} />}
      <circle cx={cx} cy={cy} r={shown} stroke="#1d1b16" strokeWidth="3.5" pointerEvents="none" />
      <Brush
        ref={(brush: SVGCircleElement | null) => brush?.focus({ preventScroll: true })}
        role="button"
        tabIndex={0}
        aria-label={LABELS[tool]}
        cx={cx}
        cy={cy}
        r={shown}
        stroke="#fffdf8"
        strokeWidth="1.5"
        pointerEvents="none"
        onKeyDown={onKeyDown}
        _focusVisible={{ outline: "none", stroke: "#9fe0d4" }}
      />
    </g>
  );
}

/** No more points than the server takes, the first and the last among them. */
function thinned(points: Point[], most: number): Point[] {
  if (points.length <= most) return points;
  const step = (points.length - 1) / (most - 1);
  return Array.from({ length: most }, (_, i) => points[Math.round(i * step)] as Point);
}
