/* What the hand does on the stage: draw a reading, move an end, place the corners of a rectangle,
   pan, pinch. */
import { useGesture } from "@use-gesture/react";
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import type { Edit, Kind } from "../../api/client";
import { arrow, stepOf, TAKES_KEYS, useHeld } from "../../shared/keys";
import type { Bench, Outcome } from "../useBench";
import { distance, type Point } from "./geometry";
import type { View, Zoomed } from "./useView";

export type Tool = Kind | "rectangle";

/** What is in the hand; points are in pixels of the picture that is seen. */
export type Hold =
  | { what: "draw"; id: string; kind: Kind; points: [Point, Point] }
  | { what: "end"; id: string; end: number; at: Point }
  | { what: "pan"; from: Point; before: Zoomed };

export type Settled = Exclude<Hold, { what: "pan" }>;

/** A shorter drag was a click. */
const MIN_DRAG_PX = 6;
const SAME_PLACE_PX = 4;
/** The middle button, among those that are down. */
const MIDDLE = 4;

export const newId = (): string => crypto.randomUUID().slice(0, 8);

interface Options {
  bench: Bench;
  view: View;
  tool: Tool | undefined;
  onTool: (tool: Tool | undefined) => void;
  onSelect: (id: string | undefined) => void;
  onSay: (words: string | undefined) => void;
  measuring: boolean;
  fitting: boolean;
  hold: Hold | undefined;
  setHold: (hold: Hold | undefined | ((now: Hold | undefined) => Hold | undefined)) => void;
  onPlacedByKey: (focus: string) => void;
}

export function useHand({
  bench,
  view,
  tool,
  onTool,
  onSelect,
  onSay,
  measuring,
  fitting,
  hold,
  setHold,
  onPlacedByKey,
}: Options) {
  const { acts } = bench;
  const { seen, zoom } = view;
  // The corners of a rectangle or the points of a trace that were clicked so far; another view
  // begins anew.
  const [clicked, setClicked] = useState<{ seen: View["seen"]; points: Point[] }>({
    seen,
    points: [],
  });
  const corners = clicked.seen === seen ? clicked.points : [];
  const setCorners = (points: Point[]) => setClicked({ seen, points });
  const space = useHeld("space", TAKES_KEYS);
  const held = useRef<Hold>(undefined);

  const letGo = () => {
    held.current = undefined;
    setHold(undefined);
    setCorners([]);
    acts.drop();
  };

  /* Escape lets go of what is in the hand, before anyone else hears of it. */
  useEffect(() => {
    if (!hold && !corners.length) return;
    const cancel = (event: globalThis.KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      letGo();
    };
    window.addEventListener("keydown", cancel, true);
    return () => window.removeEventListener("keydown", cancel, true);
  });

  const say = ({ said, refused }: Outcome) => onSay(refused ?? said);

  /* What was in the hand stays drawn until the server has kept it. */
  const land = (what: Settled) => {
    const stays = { ...what };
    setHold(stays);
    void acts.settle().then((outcome) => {
      say(outcome);
      setHold((now) => (now === stays ? undefined : now));
    });
  };

  const placeRectangle = async (edit: Extract<Edit, { do: "place_rectangle" }>, byKey: boolean) => {
    setCorners([]);
    const outcome = await acts.keep(edit, { quietly: true });
    say(outcome);
    if (outcome.refused) return;
    onTool(undefined);
    onSelect(`${edit.group}-0`);
    if (byKey) onPlacedByKey(`${edit.group}-0-0`);
  };

  /* What is given by points along it; two are enough for a set-out line. */
  const byPoints = tool === "set_out" ? "set_out" : "trace";
  const ends =
    (tool === "trace" && corners.length > 0) || (tool === "set_out" && corners.length > 1);

  const endTrace = async () => {
    const id = newId();
    const outcome = await acts.keep(
      { do: "draw_reading", id, kind: byPoints, points: corners, seen, zoom, fit: fitting },
      { quietly: true },
    );
    say(outcome);
    if (outcome.refused) return;
    setCorners([]);
    onTool(undefined);
    onSelect(id);
  };

  const click = (at: Point) => {
    const last = corners.at(-1);
    // The second click of a double click only ends the trace.
    if (last && distance(last, at) * zoom < SAME_PLACE_PX) return;
    const points = [...corners, at];
    const [a, b, c, d] = points;
    if (tool === "rectangle" && a && b && c && d)
      void placeRectangle(
        { do: "place_rectangle", group: newId(), corners: [a, b, c, d], seen, zoom, fit: fitting },
        false,
      );
    else setCorners(points);
  };

  const begin = (target: Element, xy: [number, number], panning: boolean): Hold | undefined => {
    if (panning) return { what: "pan", from: view.at(xy), before: { zoom, pan: view.pan } };
    onSay(undefined);
    const at = view.fromStage(view.at(xy));
    const handle = target.closest<SVGElement>("[data-end]");
    const clicking =
      tool === "rectangle" || tool === "trace" || (tool === "set_out" && corners.length > 0);
    if (handle && !clicking) {
      const id = handle.dataset.reading as string;
      onSelect(id);
      return { what: "end", id, end: Number(handle.dataset.end), at };
    }
    if (tool && measuring) {
      if (tool !== "rectangle" && tool !== "trace" && !clicking)
        return { what: "draw", id: newId(), kind: tool, points: [at, at] };
      click(at);
    } else onSelect(target.closest<SVGElement>("[data-line]")?.dataset.line);
    return undefined;
  };

  const move = (now: Hold, xy: [number, number]): Hold => {
    if (now.what === "pan") {
      view.zoomFrom(now.before, 1, now.from, view.at(xy));
      return now;
    }
    const at = view.fromStage(view.at(xy));
    if (now.what === "end") {
      acts.draft(
        { do: "move_point", id: now.id, point: now.end, to: at, seen, zoom, refit: true },
        { still: true },
      );
      return { ...now, at };
    }
    const points: [Point, Point] = [now.points[0], at];
    if (longEnough(points))
      acts.draft(
        { do: "draw_reading", id: now.id, kind: now.kind, points, seen, zoom, fit: fitting },
        { still: true },
      );
    return { ...now, points };
  };

  const longEnough = ([a, b]: [Point, Point]) => distance(a, b) * zoom >= MIN_DRAG_PX;

  const end = (now: Hold, tap: boolean) => {
    setHold(undefined);
    if (now.what === "pan") return;
    if (tap || (now.what === "draw" && !longEnough(now.points))) {
      acts.drop();
      if (now.what === "draw" && now.kind === "set_out") click(now.points[0]);
      return;
    }
    if (now.what === "draw") {
      onTool(undefined);
      onSelect(now.id);
    }
    land(now);
  };

  const bind = useGesture(
    {
      onDrag: ({ first, last, tap, event, xy, buttons, pinching }) => {
        if (first) {
          held.current = begin(event.target as Element, xy, buttons === MIDDLE || space);
          return setHold(held.current);
        }
        if (!held.current || pinching) return;
        if (!last) return setHold((held.current = move(held.current, xy)));
        end(held.current, tap);
        held.current = undefined;
      },
      onPinch: ({ first, origin, da: [apart], memo }) => {
        if (first) letGo();
        const to = view.at(origin);
        const start = (memo as { apart: number; from: Point; before: Zoomed } | undefined) ?? {
          apart,
          from: to,
          before: { zoom, pan: view.pan },
        };
        view.zoomFrom(start.before, apart / start.apart, start.from, to);
        return start;
      },
    },
    { drag: { pointer: { buttons: [1, 4], keys: false } }, pinch: { pinchOnWheel: false } },
  );

  const onKeyDown = (event: KeyboardEvent<HTMLDivElement>) => {
    const handle = (event.target as Element).closest<SVGElement>("[data-end]");
    if (handle) moveEndByKey(event, handle.dataset.reading as string, Number(handle.dataset.end));
    else if (event.key === "Enter" && ends) void endTrace();
    else if (event.key === "Enter" && tool && event.target === event.currentTarget)
      placeByKey(tool);
  };

  const moveEndByKey = (event: KeyboardEvent, id: string, point: number) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = stepOf(event, 1);
    acts.keepSoon(
      { do: "nudge_point", id, point, by: [way[0] * step, way[1] * step] },
      { still: true },
    );
  };

  const placeByKey = (kind: Tool) => {
    const { width, height } = bench.state.file;
    const at = (x: number, y: number): Point => [width * x, height * y];
    if (kind === "rectangle")
      return void placeRectangle(
        {
          do: "place_rectangle",
          group: newId(),
          corners: [at(0.3, 0.3), at(0.7, 0.3), at(0.7, 0.7), at(0.3, 0.7)],
          zoom,
          fit: false,
        },
        true,
      );
    const points = {
      trace: [at(0.15, 0.15), at(0.5, 0.15), at(0.85, 0.15)],
      plumb: [at(0.5, 0.2), at(0.5, 0.8)],
      level: [at(0.2, 0.5), at(0.8, 0.5)],
      horizon: [at(0.2, 0.5), at(0.8, 0.5)],
      check: [at(0.2, 0.5), at(0.8, 0.5)],
      set_out: [at(0.2, 0.5), at(0.8, 0.5)],
    }[kind];
    const id = newId();
    onTool(undefined);
    onSelect(id);
    onPlacedByKey(`${id}-0`);
    void acts.keep({ do: "draw_reading", id, kind, points, zoom, fit: false });
  };

  return {
    corners,
    space,
    on: {
      ...bind(),
      onKeyDown,
      onDoubleClick: () => ends && void endTrace(),
    },
  };
}
