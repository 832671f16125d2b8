/* The frame moved and resized, by pointer and by key: the hand says where it should go, the server
   where it may. */
import { useDrag } from "@use-gesture/react";
import { useRef, type KeyboardEvent } from "react";
import type { Edit } from "../../api/client";
import { arrow, stepOf } from "../../shared/keys";
import type { Bench } from "../useBench";
import type { Point } from "../../picture/geometry";
import type { View } from "./useView";

/** Which edge or corner of a frame: (0, 0) is the whole of it. */
export type Handle = Extract<Edit, { do: "drag_frame" }>["handle"];
/** By how much an arrow key moves, in pixels. */
export const STEP_PX = 10;
export const BY_HAND = { pointer: { keys: false } } as const;
/**
 * How far a handle is pulled beyond where the frame stops, in screen pixels, before it goes past
 * the outline.
 */
const PULL_PX = 24;

/** Moving and resizing, by pointer and by key. */
export function useFrameHold(bench: Bench, view: View, onHold: (held: boolean) => void) {
  const held = useRef<{ past: boolean; start: Bench["shown"]["face"]; moved: boolean }>(undefined);
  const drag = useDrag(({ first, last, canceled, event, args, movement }) => {
    const [handle] = args as [Handle];
    if (first) {
      event.stopPropagation();
      held.current = {
        past: bench.shown.cost.fill_fraction > 0,
        start: bench.shown.face,
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
    hand.past ||= pulledBeyond(handle, by, hand.start, bench.shown.face) * view.zoom > PULL_PX;
    hand.moved = true;
    bench.acts.draft({ do: "drag_frame", handle, by, past: hand.past });
  }, BY_HAND);

  const onKeyDown = (handle: Handle) => (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = stepOf(event, STEP_PX);
    bench.acts.recordSoon({ do: "drag_frame", handle, by: [way[0] * step, way[1] * step] });
  };
  return { on: (handle: Handle) => ({ ...drag(handle), onKeyDown: onKeyDown(handle) }) };
}

type Frame = Bench["shown"]["face"];

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
