/* A box that is being drawn over the picture, or a point that is being chosen, for the frame. */
import { useDrag } from "@use-gesture/react";
import { useState } from "react";
import { t } from "../../shared/words";
import { TAKES_KEYS, useKeys, within } from "../../shared/keys";
import type { BrushTool, Framing, FrameTool } from "../frame/useFraming";
import type { Bench } from "../useBench";
import { boxPoints, inverse, mapped, polygon, type Point } from "../../picture/geometry";
import { BY_HAND } from "./useFrameHold";
import type { View } from "./useView";

/** Those that choose a point and draw no box. */
const POINTS: ReadonlySet<FrameTool> = new Set(["aim", "grey", "copy"]);

interface DrawProps {
  tool: Exclude<FrameTool, BrushTool>;
  bench: Bench;
  view: View;
  framing: Framing;
  size: { width: number; height: number };
}

/**
 * A box that is being drawn, or a point that is being chosen; by key, Enter puts one in the middle
 * of the frame.
 */
export function DrawBox({ tool, bench, view, framing, size }: DrawProps) {
  const [drawn, setDrawn] = useState<[Point, Point]>();
  const { seen } = view;
  const take = (a: Point, b: Point) => {
    framing.setTool(undefined);
    const guide = framing.guide === "none" ? null : framing.guide;
    if (tool === "grey") return void bench.acts.record({ do: "pick_grey", point: b, seen });
    if (tool === "aim") return void bench.acts.record({ do: "aim_at", point: b, guide, seen });
    if (tool === "copy") {
      const number = framing.copied;
      return void (number && bench.acts.record({ do: "mend_from", number, place: b, seen }));
    }
    if (tool === "true_shape") {
      const opposite: [Point, Point] = [onPlane(a), onPlane(b)];
      return void bench.acts.record({ do: "mark_true_shape", opposite, seen: "corrected" });
    }
    const boxes = { keep: "keep_box", avoid: "avoid_box", still: "keep_still" } as const;
    void bench.acts.record({ do: boxes[tool], opposite: [a, b], seen });
  };
  const onPlane = (point: Point) => mapped(inverse(view.plane), view.toStage(point));
  const drag = useDrag(({ first, last, canceled, event, xy, initial }) => {
    if (first) return event.stopPropagation();
    const [from, to] = [view.fromStage(view.at(initial)), view.fromStage(view.at(xy))];
    if (!last) return !POINTS.has(tool) && setDrawn([from, to]);
    setDrawn(undefined);
    if (!canceled) take(from, to);
  }, BY_HAND);
  useKeys(["enter"], (event) => {
    if (within(event, TAKES_KEYS)) return;
    const { x, y, width, height } = bench.solution.frame;
    const reach = 0.2 * Math.min(width, height);
    const aside = (by: number) =>
      view.fromStage(mapped(view.plane, [x + width / 2 + by, y + height / 2 + by]));
    take(aside(-reach), aside(POINTS.has(tool) ? 0 : reach));
  });
  return (
    <g>
      <rect
        width={size.width}
        height={size.height}
        fill="transparent"
        style={{ cursor: "crosshair" }}
        data-draw={tool}
        {...drag()}
      />
      {drawn && (
        <path
          d={polygon(
            // The box around something round is upright where it is seen, not in the picture.
            tool === "true_shape"
              ? boxOf([view.toStage(drawn[0]), view.toStage(drawn[1])])
              : boxOf(drawn).map(view.toStage),
          )}
          fill="#9fe0d4"
          fillOpacity=".15"
          stroke="#9fe0d4"
          strokeWidth="2"
          pointerEvents="none"
        />
      )}
    </g>
  );
}

const boxOf = ([[x0, y0], [x1, y1]]: [Point, Point]): Point[] =>
  boxPoints(x0, y0, x1 - x0, y1 - y0);

export const FRAME_HINTS: Record<FrameTool, string> = {
  keep: t("Drag a box over what must not be cut. Enter puts one in the middle, Escape lets go."),
  aim: t(
    "Click the point, a face for example, that the guide should meet. Enter takes the middle, Escape lets go.",
  ),
  grey: t(
    "Click something that is grey in reality and neither very bright nor very dark: stone, asphalt, a cloud. Enter takes the middle, Escape lets go.",
  ),
  avoid: t("Drag a box over what must not be copied into the corners. Escape lets go."),
  mend: t(
    "Brush over what is to be made anew. Arrow keys move the brush, Enter dabs, Escape lets go.",
  ),
  copy: t("Click the place to copy from. Enter takes the middle of the frame, Escape lets go."),
  still_brush: t(
    "Brush over what must not bend: a face, a person, a round window. Arrow keys move the brush, Enter dabs, Escape lets go.",
  ),
  still: t("Drag a box over what must not bend: a face, a person, a round window. Escape lets go."),
  true_shape: t(
    "Drag a box close around something round or square that faces the camera: a wheel, a clock, a tile. Escape lets go.",
  ),
};
