/* The frame in the hand: its edges and corners, the box to keep, the point to aim at, what is not to be copied from, and the guides in it.

   The hand says where the frame should go; the server answers where it may. An edge stops at the picture's outline, and goes past it
   only when it is pulled on and there is a fill allowance. */
import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Placed, Recipe, SourceBox } from "../api/client";
import { clamp, inverse, mapped, polygon, type Point } from "./geometry";
import { withCorners, withFrame } from "./recipes";
import type { Bench } from "./useBench";
import type { Framing } from "./useFraming";
import type { View } from "./useView";

const Grip = chakra("circle");
const Body = chakra("path");
const HANDLES: [number, number, string][] = [
  [-1, -1, "top left corner"],
  [0, -1, "top edge"],
  [1, -1, "top right corner"],
  [1, 0, "right edge"],
  [1, 1, "bottom right corner"],
  [0, 1, "bottom edge"],
  [-1, 1, "bottom left corner"],
  [-1, 0, "left edge"],
];
const CURSORS: Record<string, string> = { "-1,-1": "nwse-resize", "1,1": "nwse-resize", "1,-1": "nesw-resize", "-1,1": "nesw-resize", "0,-1": "ns-resize", "0,1": "ns-resize", "-1,0": "ew-resize", "1,0": "ew-resize" };
/** How far an edge is pulled beyond the outline, in screen pixels, before it goes past it. */
const PULL_PX = 24;
const LEAST_PX = 24;

interface Rectangle {
  x: number;
  y: number;
  width: number;
  height: number;
}

interface Props {
  bench: Bench;
  view: View;
  framing: Framing;
  size: { width: number; height: number };
  onHold: (held: boolean) => void;
}

export function FrameHands({ bench, view, framing, size, onHold }: Props) {
  const { frame } = bench.shown;
  const { keep, aim, ratio, print_size: print } = bench.recipe.frame;
  const corners = ([[frame.x, frame.y], [frame.x + frame.width, frame.y], [frame.x + frame.width, frame.y + frame.height], [frame.x, frame.y + frame.height]] as Point[]).map((p) => mapped(view.plane, p));
  const at = (u: number, v: number): Point => mapped(view.plane, [frame.x + u * frame.width, frame.y + v * frame.height]);
  const hold = useFrameHold({ bench, view, onHold, fixed: ratio !== "free" || Boolean(print) });
  const guide = framing.guides.find((shape) => shape.guide === framing.guide);
  const change = (next: (recipe: Recipe) => Recipe, what: string) => bench.acts.commitSoon(next(bench.acts.latest()), what);

  return (
    <g>
      {guide?.lines.map(([from, to], index) => (
        <g key={index} pointerEvents="none" data-composition={guide.guide}>
          <path d={`M${at(...(from as Point)).join()}L${at(...(to as Point)).join()}`} stroke="#000" strokeOpacity=".45" strokeWidth="2.4" />
          <path d={`M${at(...(from as Point)).join()}L${at(...(to as Point)).join()}`} stroke="#fffdf8" strokeOpacity=".85" strokeWidth="1" />
        </g>
      ))}
      <Body
        d={polygon(corners)}
        fill="transparent"
        pointerEvents={framing.tool ? "none" : "all"}
        cursor="move"
        role="button"
        tabIndex={0}
        aria-label="Frame"
        {...hold.on(0, 0)}
        _focusVisible={{ outline: "none", stroke: "verdigris", strokeWidth: 4 }}
      />
      {bench.recipe.corners.avoid.map((box, index) => (
        <path key={index} d={polygon(boxCorners(box).map(view.toStage))} fill="#a83c25" fillOpacity=".22" stroke="#f7c4b6" strokeWidth="1.5" strokeDasharray="3 4" pointerEvents="none" data-avoid />
      ))}
      {keep && <KeepBox keep={keep} view={view} onChange={(box) => change((recipe) => withFrame(recipe, { keep: box }), "box to keep")} />}
      {aim?.point && <AimPoint point={aim.point as Point} view={view} file={bench.state.file} onChange={(point) => change((recipe) => withFrame(recipe, { aim: { ...aim, point } }), "aim")} />}
      {HANDLES.map(([hx, hy, name]) => {
        const [x, y] = at((hx + 1) / 2, (hy + 1) / 2);
        return (
          <Grip
            key={name}
            role="button"
            tabIndex={0}
            aria-label={`Frame, ${name}`}
            cx={x}
            cy={y}
            r={hx && hy ? 6.5 : 5.5}
            fill="onPicture"
            stroke="verdigris"
            strokeWidth="2"
            cursor={CURSORS[`${hx},${hy}`]}
            pointerEvents={framing.tool ? "none" : "all"}
            {...hold.on(hx, hy)}
            _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
          />
        );
      })}
      {framing.tool && <DrawBox key={framing.tool} bench={bench} view={view} framing={framing} size={size} />}
    </g>
  );
}

/** Moving and resizing, by pointer and by key. */
function useFrameHold({ bench, view, onHold, fixed }: { bench: Bench; view: View; onHold: (held: boolean) => void; fixed: boolean }) {
  const held = useRef<{ from: Point; frame: Rectangle; past: boolean; moved: boolean }>(undefined);

  const wanted = (frame: Rectangle, hx: number, hy: number, dx: number, dy: number): Rectangle => {
    if (!hx && !hy) return { ...frame, x: frame.x + dx, y: frame.y + dy };
    let across = (frame.width + hx * dx) / frame.width;
    let down = (frame.height + hy * dy) / frame.height;
    if (fixed) across = down = hx && hy ? Math.max(across, down) : hx ? across : down;
    else if (!hx) across = 1;
    else if (!hy) down = 1;
    const width = Math.max(LEAST_PX, frame.width * across);
    const height = Math.max(LEAST_PX, frame.height * down);
    const [u, v] = [(1 - hx) / 2, (1 - hy) / 2];
    return { x: frame.x + u * (frame.width - width), y: frame.y + v * (frame.height - height), width, height };
  };
  const placed = (frame: Rectangle, hx: number, hy: number, past: boolean): Placed => {
    const anchor: [number, number] = [(1 - hx) / 2, (1 - hy) / 2];
    const { width, height } = bench.state.file;
    const [x, y] = view.toSource(mapped(view.plane, [frame.x + anchor[0] * frame.width, frame.y + anchor[1] * frame.height]));
    // A frame that reaches past the picture is anchored to the nearest point of it only when nothing may lie past it.
    return { at: past ? [x, y] : [clamp(x, 0, width), clamp(y, 0, height)], anchor, width: frame.width, height: frame.height, past };
  };

  const on = (hx: number, hy: number) => ({
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = { from: planePoint(event, view), frame: bench.shown.frame, past: bench.shown.cost.fill_fraction > 0, moved: false };
      onHold(true);
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      const hand = held.current;
      if (!hand) return;
      const [px, py] = planePoint(event, view);
      const next = wanted(hand.frame, hx, hy, px - hand.from[0], py - hand.from[1]);
      if (bench.recipe.corners.allowance > 0 && !hand.past) hand.past = beyond(next, bench.shown.frame) * view.zoom > PULL_PX;
      hand.moved = true;
      bench.acts.preview(withFrame(bench.acts.latest(), { placed: placed(next, hx, hy, hand.past) }));
    },
    onPointerUp: () => {
      const hand = held.current;
      if (!hand) return;
      held.current = undefined;
      onHold(false);
      if (hand.moved) void bench.acts.commit(bench.acts.latest(), hx || hy ? "frame resized" : "frame moved");
    },
    onPointerCancel: () => {
      held.current = undefined;
      onHold(false);
      bench.acts.drop();
    },
    onKeyDown: (event: KeyboardEvent) => {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!way || event.ctrlKey) return;
      event.preventDefault();
      event.stopPropagation();
      const step = event.shiftKey ? 100 : event.altKey ? 1 : 10;
      const next = wanted(bench.solution.frame, hx, hy, (way[0] as number) * step, (way[1] as number) * step);
      const past = bench.recipe.corners.allowance > 0 && (bench.recipe.frame.placed?.past ?? bench.solution.cost.fill_fraction > 0);
      bench.acts.commitSoon(withFrame(bench.acts.latest(), { placed: placed(next, hx, hy, past) }), hx || hy ? "frame resized" : "frame moved");
    },
  });
  return { on };
}

/** How far a wanted frame reaches beyond another. */
const beyond = (wanted: Rectangle, found: Rectangle): number =>
  Math.max(found.x - wanted.x, found.y - wanted.y, wanted.x + wanted.width - found.x - found.width, wanted.y + wanted.height - found.y - found.height);

function planePoint(event: PointerEvent<SVGElement>, view: View): Point {
  return mapped(inverse(view.plane), stagePoint(event));
}

function stagePoint(event: PointerEvent<SVGElement>): Point {
  const box = (event.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
  return [event.clientX - box.left, event.clientY - box.top];
}

const boxCorners = ({ left, top, right, bottom }: SourceBox): Point[] => [[left, top], [right, top], [right, bottom], [left, bottom]];

/** A thing on the picture that can be dragged and nudged; it tells where it should be, in source pixels. */
function useSourceGrip(point: Point, view: View, onMove: (point: Point) => void) {
  const held = useRef(false);
  return {
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = true;
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      if (held.current) onMove(view.toSource(stagePoint(event)));
    },
    onPointerUp: () => (held.current = false),
    onPointerCancel: () => (held.current = false),
    onKeyDown: (event: KeyboardEvent) => {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!way || event.ctrlKey) return;
      event.preventDefault();
      event.stopPropagation();
      const step = event.shiftKey ? 100 : event.altKey ? 1 : 10;
      onMove([point[0] + (way[0] as number) * step, point[1] + (way[1] as number) * step]);
    },
  };
}

function KeepBox({ keep, view, onChange }: { keep: SourceBox; view: View; onChange: (box: SourceBox) => void }) {
  const first = useSourceGrip([keep.left, keep.top], view, ([left, top]) => onChange({ ...keep, left: Math.min(left, keep.right - 4), top: Math.min(top, keep.bottom - 4) }));
  const second = useSourceGrip([keep.right, keep.bottom], view, ([right, bottom]) => onChange({ ...keep, right: Math.max(right, keep.left + 4), bottom: Math.max(bottom, keep.top + 4) }));
  const line = polygon(boxCorners(keep).map(view.toStage));
  return (
    <g data-keep>
      <path d={line} stroke="#000" strokeOpacity=".5" strokeWidth="4" pointerEvents="none" />
      <path d={line} stroke="#9fe0d4" strokeWidth="2" pointerEvents="none" />
      <text {...labelAt(view.toStage([keep.left, keep.top]))} fontSize="12" fill="#fff" stroke="#000" strokeWidth="3" paintOrder="stroke" pointerEvents="none">
        keep
      </text>
      <SourceGrip name="Box to keep, top left" point={view.toStage([keep.left, keep.top])} hands={first} />
      <SourceGrip name="Box to keep, bottom right" point={view.toStage([keep.right, keep.bottom])} hands={second} />
    </g>
  );
}

const labelAt = ([x, y]: Point) => ({ x: x + 8, y: y - 8 });

function AimPoint({ point, view, file, onChange }: { point: Point; view: View; file: { width: number; height: number }; onChange: (point: Point) => void }) {
  const hands = useSourceGrip(point, view, ([x, y]) => onChange([clamp(x, 0, file.width), clamp(y, 0, file.height)]));
  const [x, y] = view.toStage(point);
  const cross = `M${x - 16},${y}H${x - 5}M${x + 5},${y}H${x + 16}M${x},${y - 16}V${y - 5}M${x},${y + 5}V${y + 16}`;
  return (
    <g data-aim>
      <path d={cross} stroke="#000" strokeOpacity=".5" strokeWidth="4" pointerEvents="none" />
      <path d={cross} stroke="#9fe0d4" strokeWidth="2" pointerEvents="none" />
      <SourceGrip name="Point to aim at" point={[x, y]} hands={hands} />
    </g>
  );
}

function SourceGrip({ name, point: [x, y], hands }: { name: string; point: Point; hands: ReturnType<typeof useSourceGrip> }) {
  return <Grip role="button" tabIndex={0} aria-label={name} cx={x} cy={y} r="5.5" fill="#9fe0d4" stroke="inkOnPicture" strokeWidth="2" cursor="move" {...hands} _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }} />;
}

/** A box that is being drawn, or a point that is being chosen; by key, Enter puts one in the middle of the frame. */
function DrawBox({ bench, view, framing, size }: { bench: Bench; view: View; framing: Framing; size: { width: number; height: number } }) {
  const start = useRef<Point>(undefined);
  const [drawn, setDrawn] = useState<SourceBox>();
  const { width, height } = bench.state.file;
  const inside = ([x, y]: Point): Point => [clamp(x, 0, width), clamp(y, 0, height)];
  const source = (event: PointerEvent<SVGElement>) => inside(view.toSource(stagePoint(event)));
  const take = (box: SourceBox, point: Point) => {
    const recipe = bench.acts.latest();
    framing.setTool(undefined);
    if (framing.tool === "aim") {
      const { guide, meets } = recipe.frame.aim?.point ? recipe.frame.aim : { guide: framing.guide === "none" ? ("thirds" as const) : framing.guide, meets: "crossing" as const };
      return void bench.acts.commit(withFrame(recipe, { placed: null, aim: { point, guide, meets, between: null } }), "aim");
    }
    if (box.right - box.left < 4 || box.bottom - box.top < 4) return;
    if (framing.tool === "keep") return void bench.acts.commit(withFrame(recipe, { placed: null, keep: box }), "box to keep");
    void bench.acts.commit(withCorners(recipe, { avoid: [...recipe.corners.avoid, box] }), "not to be copied");
  };
  useEffect(() => {
    const key = (event: globalThis.KeyboardEvent) => {
      if (event.key === "Escape") framing.setTool(undefined);
      if (event.key !== "Enter" || (event.target as HTMLElement).closest("button, input, select, a")) return;
      const { frame } = bench.solution;
      const middle = mapped(view.plane, [frame.x + frame.width / 2, frame.y + frame.height / 2]);
      const reach = (0.2 * Math.min(frame.width, frame.height)) | 0;
      const [x, y] = inside(view.toSource(middle));
      take({ left: Math.max(0, x - reach), top: Math.max(0, y - reach), right: Math.min(width, x + reach), bottom: Math.min(height, y + reach) }, [x, y]);
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  });
  return (
    <g>
      <rect
        width={size.width}
        height={size.height}
        fill="transparent"
        style={{ cursor: "crosshair" }}
        data-draw={framing.tool}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          start.current = source(event);
        }}
        onPointerMove={(event) => start.current && framing.tool !== "aim" && setDrawn(boxOf(start.current, source(event)))}
        onPointerUp={(event) => {
          if (!start.current) return;
          const end = source(event);
          take(boxOf(start.current, end), end);
          start.current = undefined;
          setDrawn(undefined);
        }}
      />
      {drawn && <path d={polygon(boxCorners(drawn).map(view.toStage))} fill="#9fe0d4" fillOpacity=".15" stroke="#9fe0d4" strokeWidth="2" pointerEvents="none" />}
    </g>
  );
}

const boxOf = ([x0, y0]: Point, [x1, y1]: Point): SourceBox => ({ left: Math.min(x0, x1), top: Math.min(y0, y1), right: Math.max(x0, x1), bottom: Math.max(y0, y1) });

export const FRAME_HINTS = {
  keep: "Drag a box over what must not be cut. Enter puts one in the middle, Escape lets go.",
  aim: "Click the point, a face for example, that the guide should meet. Enter takes the middle, Escape lets go.",
  avoid: "Drag a box over what must not be copied into the corners. Escape lets go.",
};
