/* The frame in the hand: its edges and corners, the box to keep, the point to aim at, what is not
   to be copied from, and the guides in it.

   The hand says where the frame should go; the server answers where it may. An edge stops at the
   picture's outline, and goes past it only when it is pulled on and there is a fill allowance. */
import { chakra } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import { useRef, useState, type KeyboardEvent } from "react";
import type { Edit, GuideShape } from "../../api/client";
import { arrow, stepOf, TAKES_KEYS, useKeys, within } from "../../shared/keys";
import type { Framing, FrameTool } from "../frame/useFraming";
import type { Bench } from "../useBench";
import { corners, line, mapped, polygon, type Point } from "./geometry";
import type { View } from "./useView";

const Grip = chakra("circle");
const Body = chakra("path");

type Handle = Extract<Edit, { do: "drag_frame" }>["handle"];
const WHOLE: Handle = [0, 0];
const HANDLES: { handle: Handle; name: string; cursor: string }[] = [
  { handle: [-1, -1], name: "top left corner", cursor: "nwse-resize" },
  { handle: [0, -1], name: "top edge", cursor: "ns-resize" },
  { handle: [1, -1], name: "top right corner", cursor: "nesw-resize" },
  { handle: [1, 0], name: "right edge", cursor: "ew-resize" },
  { handle: [1, 1], name: "bottom right corner", cursor: "nwse-resize" },
  { handle: [0, 1], name: "bottom edge", cursor: "ns-resize" },
  { handle: [-1, 1], name: "bottom left corner", cursor: "nesw-resize" },
  { handle: [-1, 0], name: "left edge", cursor: "ew-resize" },
];
/**
 * How far a handle is pulled beyond where the frame stops, in screen pixels, before it goes past
 * the outline.
 */
const PULL_PX = 24;
const BY_HAND = { pointer: { keys: false } } as const;

/** By how much an arrow key moves, in pixels. */
const STEP_PX = 10;

interface Props {
  bench: Bench;
  view: View;
  framing: Framing;
  guides: GuideShape[];
  size: { width: number; height: number };
  onHold: (held: boolean) => void;
}

export function FrameHands({ bench, view, framing, guides, size, onHold }: Props) {
  const { x, y, width, height } = bench.shown.frame;
  const { marks } = bench.solution;
  const at = ([u, v]: readonly [number, number]): Point =>
    mapped(view.plane, [x + u * width, y + v * height]);
  const hold = useFrameHold(bench, view, onHold);
  const guide = guides.find((shape) => shape.guide === framing.guide);

  return (
    <g>
      {guide?.lines.map(([from, to], index) => (
        <g key={index} pointerEvents="none" data-composition={guide.guide}>
          <path d={line([at(from), at(to)])} stroke="#000" strokeOpacity=".45" strokeWidth="2.4" />
          <path d={line([at(from), at(to)])} stroke="#fffdf8" strokeOpacity=".85" strokeWidth="1" />
        </g>
      ))}
      <Body
        d={polygon(corners(x, y, width, height).map((p) => mapped(view.plane, p)))}
        fill="transparent"
        pointerEvents={framing.tool ? "none" : "all"}
        cursor="move"
        role="button"
        tabIndex={0}
        aria-label="Frame"
        {...hold.on(WHOLE)}
        _focusVisible={{ outline: "none", stroke: "verdigris", strokeWidth: 4 }}
      />
      {marks.avoid.map((box, index) => (
        <path
          key={index}
          d={polygon(box.map((p) => mapped(view.plane, p)))}
          fill="#a83c25"
          fillOpacity=".22"
          stroke="#f7c4b6"
          strokeWidth="1.5"
          strokeDasharray="3 4"
          pointerEvents="none"
          data-avoid
        />
      ))}
      {marks.still.map((box, index) => (
        <path
          key={index}
          d={polygon(box.map((p) => mapped(view.plane, p)))}
          stroke="#bfe3ff"
          strokeWidth="1.6"
          strokeDasharray="8 3 2 3"
          pointerEvents="none"
          data-still
        />
      ))}
      {marks.keep.length > 0 && <KeepBox bench={bench} view={view} />}
      {marks.aim && <AimPoint bench={bench} view={view} point={marks.aim} />}
      {HANDLES.map(({ handle, name, cursor }) => {
        const [cx, cy] = at([(handle[0] + 1) / 2, (handle[1] + 1) / 2]);
        return (
          <Grip
            key={name}
            role="button"
            tabIndex={0}
            aria-label={`Frame, ${name}`}
            cx={cx}
            cy={cy}
            r={handle[0] && handle[1] ? 6.5 : 5.5}
            fill="onPicture"
            stroke="verdigris"
            strokeWidth="2"
            cursor={cursor}
            pointerEvents={framing.tool ? "none" : "all"}
            {...hold.on(handle)}
            _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
          />
        );
      })}
      {framing.tool && (
        <DrawBox
          key={framing.tool}
          tool={framing.tool}
          bench={bench}
          view={view}
          framing={framing}
          size={size}
        />
      )}
    </g>
  );
}

/** Moving and resizing, by pointer and by key. */
function useFrameHold(bench: Bench, view: View, onHold: (held: boolean) => void) {
  const held = useRef<{ past: boolean; start: Bench["shown"]["frame"]; moved: boolean }>(undefined);
  const drag = useDrag(({ first, last, canceled, event, args, movement }) => {
    const [handle] = args as [Handle];
    if (first) {
      event.stopPropagation();
      held.current = {
        past: bench.shown.cost.fill_fraction > 0,
        start: bench.shown.frame,
        moved: false,
      };
      return onHold(true);
    }
    const hand = held.current;
    if (!hand) return;
    if (last) {
      held.current = undefined;
      onHold(false);
      if (canceled || !hand.moved) bench.acts.drop();
      else void bench.acts.settle();
      return;
    }
    const by: Point = [movement[0] / view.zoom, movement[1] / view.zoom];
    hand.past ||= pulledBeyond(handle, by, hand.start, bench.shown.frame) * view.zoom > PULL_PX;
    hand.moved = true;
    bench.acts.attempt({ do: "drag_frame", handle, by, past: hand.past });
  }, BY_HAND);

  const onKeyDown = (handle: Handle) => (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = stepOf(event, STEP_PX);
    bench.acts.keepSoon({ do: "drag_frame", handle, by: [way[0] * step, way[1] * step] });
  };
  return { on: (handle: Handle) => ({ ...drag(handle), onKeyDown: onKeyDown(handle) }) };
}

type Frame = Bench["shown"]["frame"];

/**
 * How far the hand is ahead of the frame, outwards from it; a frame moved as a whole lags behind in
 * any direction.
 */
function pulledBeyond([hx, hy]: Handle, [dx, dy]: Point, start: Frame, now: Frame): number {
  const ahead = (h: number, moved: number, from: number, to: number) =>
    h ? (from + moved - to) * h : 0;
  if (!hx && !hy) return Math.max(Math.abs(start.x + dx - now.x), Math.abs(start.y + dy - now.y));
  const side = (h: number, low: number, extent: number) => (h < 0 ? low : low + extent);
  return Math.max(
    ahead(hx, dx, side(hx, start.x, start.width), side(hx, now.x, now.width)),
    ahead(hy, dy, side(hy, start.y, start.height), side(hy, now.y, now.height)),
  );
}

/**
 * A thing on the picture that can be dragged and nudged; it says where it should be.
 *
 * @param point Where the server has it in the corrected picture.
 */
function useGrip(point: Point, view: View, onMove: (point: Point) => void) {
  // Where keys have moved it, until the server says where it is.
  const keyed = useRef<{ of: Point; at: Point }>(undefined);
  const drag = useDrag(({ first, event, xy }) => {
    if (first) event.stopPropagation();
    else onMove(view.fromStage(view.at(xy)));
  }, BY_HAND);
  const onKeyDown = (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const [x, y] =
      keyed.current && keyed.current.of === point
        ? keyed.current.at
        : view.fromStage(mapped(view.plane, point));
    const next: Point = [x + way[0] * stepOf(event, STEP_PX), y + way[1] * stepOf(event, STEP_PX)];
    keyed.current = { of: point, at: next };
    onMove(next);
  };
  return { ...drag(), onKeyDown };
}

function KeepBox({ bench, view }: { bench: Bench; view: View }) {
  const { keep, keep_corners } = bench.solution.marks;
  const points = keep.map((p) => mapped(view.plane, p));
  const [topLeft, , bottomRight] = keep_corners as [Point, Point, Point, Point];
  const move = (corner: "top_left" | "bottom_right") => (to: Point) =>
    bench.acts.keepSoon({ do: "move_keep_corner", corner, to, seen: view.seen });
  const first = useGrip(topLeft, view, move("top_left"));
  const second = useGrip(bottomRight, view, move("bottom_right"));
  const [x, y] = points[0] as Point;
  return (
    <g data-keep>
      <path
        d={polygon(points)}
        stroke="#000"
        strokeOpacity=".5"
        strokeWidth="4"
        pointerEvents="none"
      />
      <path d={polygon(points)} stroke="#9fe0d4" strokeWidth="2" pointerEvents="none" />
      <text
        x={x + 8}
        y={y - 8}
        fontSize="12"
        fill="#fff"
        stroke="#000"
        strokeWidth="3"
        paintOrder="stroke"
        pointerEvents="none"
      >
        keep
      </text>
      <MarkGrip name="Box to keep, top left" point={mapped(view.plane, topLeft)} hands={first} />
      <MarkGrip
        name="Box to keep, bottom right"
        point={mapped(view.plane, bottomRight)}
        hands={second}
      />
    </g>
  );
}

function AimPoint({ bench, view, point }: { bench: Bench; view: View; point: Point }) {
  const hands = useGrip(point, view, (to) =>
    bench.acts.keepSoon({ do: "move_aim", to, seen: view.seen }),
  );
  const [x, y] = mapped(view.plane, point);
  const cross = `M${x - 16},${y}H${x - 5}M${x + 5},${y}H${x + 16}M${x},${y - 16}V${y - 5}M${x},${y + 5}V${y + 16}`;
  return (
    <g data-aim>
      <path d={cross} stroke="#000" strokeOpacity=".5" strokeWidth="4" pointerEvents="none" />
      <path d={cross} stroke="#9fe0d4" strokeWidth="2" pointerEvents="none" />
      <MarkGrip name="Point to aim at" point={[x, y]} hands={hands} />
    </g>
  );
}

function MarkGrip({
  name,
  point: [x, y],
  hands,
}: {
  name: string;
  point: Point;
  hands: ReturnType<typeof useGrip>;
}) {
  return (
    <Grip
      role="button"
      tabIndex={0}
      aria-label={name}
      cx={x}
      cy={y}
      r="5.5"
      fill="#9fe0d4"
      stroke="inkOnPicture"
      strokeWidth="2"
      cursor="move"
      {...hands}
      _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
    />
  );
}

interface DrawProps {
  tool: FrameTool;
  bench: Bench;
  view: View;
  framing: Framing;
  size: { width: number; height: number };
}

/**
 * A box that is being drawn, or a point that is being chosen; by key, Enter puts one in the middle
 * of the frame.
 */
function DrawBox({ tool, bench, view, framing, size }: DrawProps) {
  const [drawn, setDrawn] = useState<[Point, Point]>();
  const { seen } = view;
  const take = (a: Point, b: Point) => {
    framing.setTool(undefined);
    const guide = framing.guide === "none" ? null : framing.guide;
    if (tool === "aim") return void bench.acts.keep({ do: "aim_at", point: b, guide, seen });
    const boxes = { keep: "keep_box", avoid: "avoid_box", still: "keep_still" } as const;
    void bench.acts.keep({ do: boxes[tool], corners: [a, b], seen });
  };
  const drag = useDrag(({ first, last, canceled, event, xy, initial }) => {
    if (first) return event.stopPropagation();
    const [from, to] = [view.fromStage(view.at(initial)), view.fromStage(view.at(xy))];
    if (!last) return tool !== "aim" && setDrawn([from, to]);
    setDrawn(undefined);
    if (!canceled) take(from, to);
  }, BY_HAND);
  useKeys(["enter"], (event) => {
    if (within(event, TAKES_KEYS)) return;
    const { x, y, width, height } = bench.solution.frame;
    const reach = 0.2 * Math.min(width, height);
    const aside = (by: number) =>
      view.fromStage(mapped(view.plane, [x + width / 2 + by, y + height / 2 + by]));
    take(aside(-reach), aside(tool === "aim" ? 0 : reach));
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
          d={polygon(boxOf(drawn).map(view.toStage))}
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

const boxOf = ([[x0, y0], [x1, y1]]: [Point, Point]): Point[] => corners(x0, y0, x1 - x0, y1 - y0);

export const FRAME_HINTS: Record<FrameTool, string> = {
  keep: "Drag a box over what must not be cut. Enter puts one in the middle, Escape lets go.",
  aim: "Click the point, a face for example, that the guide should meet. Enter takes the middle, Escape lets go.",
  avoid: "Drag a box over what must not be copied into the corners. Escape lets go.",
  still: "Drag a box over what must not bend: a face, a person, a round window. Escape lets go.",
};
