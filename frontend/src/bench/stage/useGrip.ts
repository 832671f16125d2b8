/* How pointers get hold of the stage: the mouse, a pen, fingers. Each may take something into the
   hand; two fingers move the picture, and what is in the hand stays there meanwhile. */
import { useDrag, useGesture } from "@use-gesture/react";
import { useRef, useState, type RefObject } from "react";
import type { Point } from "../../picture/geometry";
import { finely, newPointers } from "./pointers";
import { REACH_PX, type Hold } from "./tools";
import type { View, Zoomed } from "./useView";

interface Options {
  view: View;
  /** What is in the hand. */
  held: RefObject<Hold | undefined>;
  /** Take something into the hand where a pointer is pressed. */
  begin: (target: Element, xy: Point, panning: boolean, reach: number) => void;
  move: (xy: Point) => void;
  end: (tap: boolean, touched: boolean) => void;
  drop: () => void;
  /** Whether it is more than the first of two fingers. */
  isBegun: (held: Hold) => boolean;
  /** Whether such buttons move the picture. */
  panning: (buttons: number) => boolean;
}

interface Dragged {
  first: boolean;
  last: boolean;
  tap: boolean;
  event: Event;
  xy: [number, number];
  delta: [number, number];
  timeDelta: number;
  buttons: number;
  pinching?: boolean | undefined;
}

export function useGrip({ view, held, begin, move, end, drop, isBegun, panning }: Options) {
  const [pointers] = useState(newPointers);
  const place = useRef<Point>([0, 0]);
  const pinched = useRef(false);
  const owner = useRef<string>(undefined);

  const onDrag = (dragged: Dragged) => {
    const { first, last, tap, event, xy, delta, timeDelta, buttons, pinching } = dragged;
    const pointer = event as PointerEvent;
    const { pointerType } = pointer;
    if (first) {
      const role = pointers.roleOf(pointer);
      if (role === "nothing" || (owner.current === "pen" && held.current)) return;
      // A pen takes over what a finger of the hand that holds it had begun.
      if (held.current) drop();
      owner.current = pointerType;
      [place.current, pinched.current] = [xy, false];
      const reach = pointerType === "mouse" ? 0 : REACH_PX;
      begin(event.target as Element, xy, role === "moves" || panning(buttons), reach);
      if (reach > 0 && held.current?.what === "end")
        place.current = placeOf(held.current, view) ?? xy;
      return;
    }
    const hold = held.current;
    if (!hold || pointerType !== owner.current) return;
    if (last) return end(tap, pointerType !== "mouse");
    if (pinching) return;
    // After two fingers moved the picture, what is in the hand lies where it came to lie.
    if (pinched.current) place.current = placeOf(hold, view) ?? place.current;
    pinched.current = false;
    if (pointerType === "mouse") return move(xy);
    const slowly = pointerType === "touch" && (hold.what === "end" || hold.what === "line");
    const [x, y] = place.current;
    place.current = slowly ? finely([x, y], delta, timeDelta) : [x + delta[0], y + delta[1]];
    move(place.current);
  };

  const fingers = useGesture(
    {
      onDrag,
      onPinch: ({ first, origin, da: [apart], memo, event }) => {
        if (owner.current === "pen" && held.current) return memo;
        // The first of two fingers has begun nothing.
        if (first && held.current && !isBegun(held.current)) drop();
        pinched.current = true;
        event.preventDefault();
        const to = view.at(origin);
        const start = (memo as { apart: number; from: Point; before: Zoomed } | undefined) ?? {
          apart,
          from: to,
          before: { zoom: view.zoom, pan: view.pan },
        };
        view.zoomFrom(start.before, apart / start.apart, start.from, to);
        return start;
      },
    },
    { drag: { pointer: { buttons: [1, 4], keys: false } }, pinch: { pinchOnWheel: false } },
  )();
  // A pen has a hold of its own: a finger on the glass does not keep it from drawing.
  const pen = useDrag(onDrag, { pointer: { keys: false } })();

  return {
    ...fingers,
    ...byPen(pen, fingers, (event) => pointers.penIs(event.timeStamp)),
  };
}

type Listeners = Record<string, (event: React.PointerEvent) => void>;

/** The listeners of a pen where they are a pen's, else those of all others. */
function byPen(pen: object, others: object, seen: (event: React.PointerEvent) => void) {
  const [ofPen, ofOthers] = [pen as Listeners, others as Listeners];
  const names = Object.keys(ofPen).filter((name) => name.startsWith("onPointer"));
  return Object.fromEntries(
    names.map((name) => [
      name,
      (event: React.PointerEvent) => {
        const isPen = event.pointerType === "pen";
        if (isPen) seen(event);
        (isPen ? ofPen : ofOthers)[name]?.(event);
      },
    ]),
  );
}

/** Where in the window what is in the hand lies. */
function placeOf(hold: Hold, view: View): Point | undefined {
  if (hold.what === "pan" || hold.what === "turn") return undefined;
  const [x, y] = view.toStage(hold.what === "draw" ? hold.points[1] : hold.at);
  const [left, top] = view.at([0, 0]);
  return [x - left, y - top];
}
