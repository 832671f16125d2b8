/* What the hand does on the stage: draw a reading, move an end, place the corners of a rectangle, pan. */
import { useEffect, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Kind, Reading, Recipe } from "../api/client";
import { clamp, distance, type Point } from "./geometry";
import { handPoints, linkedWith, newId, newReading, sigmaAt, withChanged, withPoint, withReadings } from "./recipes";
import type { Bench } from "./useBench";
import type { View } from "./useView";

export type Tool = Kind | "rectangle";
export type Hold = { what: "draw"; reading: Reading; base: Recipe } | { what: "end"; id: string; end: number; wasFitted: boolean } | { what: "pan"; last: Point };

const MIN_DRAG_PX = 6;

interface Options {
  bench: Bench;
  view: View;
  box: () => DOMRect;
  tool: Tool | undefined;
  onTool: (tool: Tool | undefined) => void;
  onSelect: (id: string | undefined) => void;
  onSay: (words: string | undefined) => void;
  measuring: boolean;
  fitting: boolean;
  hold: Hold | undefined;
  setHold: (hold: Hold | undefined) => void;
  onPlacedByKey: (focus: string) => void;
}

export function useHand({ bench, view, box, tool, onTool, onSelect, onSay, measuring, fitting, hold, setHold, onPlacedByKey }: Options) {
  // The corners of a rectangle or the points of a trace that were clicked so far.
  const [corners, setCorners] = useState<Point[]>([]);
  const [space, setSpace] = useState(false);
  const { width, height } = bench.state.file;
  const inside = ([x, y]: Point): Point => [clamp(x, 0, width), clamp(y, 0, height)];
  const toSource = (event: { clientX: number; clientY: number }): Point => {
    const { left, top } = box();
    return inside(view.toSource([event.clientX - left, event.clientY - top]));
  };
  const drawnPx = ({ points: [a, b] }: Reading) => (a && b ? distance(a, b) * view.zoom : 0);

  useEffect(() => {
    const onSpace = (down: boolean) => (event: globalThis.KeyboardEvent) => {
      if (event.code === "Space" && !(event.target as HTMLElement).closest("input, button, a, [role=slider], [role=button]")) setSpace(down);
    };
    const down = onSpace(true);
    const up = onSpace(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);

  /* Escape lets go of what is in the hand, before anyone else hears of it. */
  useEffect(() => {
    if (!hold && !corners.length) return;
    const cancel = (event: globalThis.KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      setHold(undefined);
      setCorners([]);
      bench.acts.drop();
    };
    window.addEventListener("keydown", cancel, true);
    return () => window.removeEventListener("keydown", cancel, true);
  });

  /* Enter readings that were just placed by hand, fitted to the edges under them if that is wanted. */
  const place = async (drawn: Reading[], fit: boolean, what: string) => {
    let readings = drawn;
    if (fit) {
      const found = await bench.acts.fitted(drawn);
      readings = found.readings;
      onSay(readings.every((r) => r.fitted) ? undefined : found.said);
    }
    const recipe = bench.acts.latest();
    const known = readings.every((reading) => recipe.readings.some((r) => r.id === reading.id));
    await bench.acts.commit(known ? withChanged(recipe, ...readings) : withReadings(recipe, ...readings), what);
  };

  const placeRectangle = async (four: [Point, Point, Point, Point], focus: boolean) => {
    setCorners([]);
    const group = newId();
    const { readings, said } = await bench.acts.rectangle(four, group, sigmaAt(view.zoom), fitting && !focus);
    onSay(said && !(readings.length && readings.every((r) => r.fitted)) ? said : undefined);
    if (!readings.length) return;
    onTool(undefined);
    onSelect(readings[0]?.id);
    if (focus) onPlacedByKey(`${readings[0]?.id}-0`);
    await bench.acts.commit(withReadings(bench.acts.latest(), ...readings), "rectangle placed");
  };

  const endTrace = () => {
    if (corners.length < 3) return onSay("A trace needs at least three points: two always lie on a straight line.");
    setCorners([]);
    onTool(undefined);
    const reading = newReading("trace", corners, view.zoom);
    onSelect(reading.id);
    void place([reading], fitting, "trace added");
  };

  const onPointerDown = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button === 1 || (event.button === 0 && space)) {
      event.currentTarget.setPointerCapture(event.pointerId);
      setHold({ what: "pan", last: [event.clientX, event.clientY] });
      event.preventDefault();
      return;
    }
    if (event.button !== 0) return;
    onSay(undefined);
    const handle = (event.target as Element).closest<SVGElement>("[data-end]");
    if (handle && tool !== "rectangle" && tool !== "trace") {
      event.currentTarget.setPointerCapture(event.pointerId);
      const id = handle.dataset.reading as string;
      onSelect(id);
      const wasFitted = Boolean(bench.acts.latest().readings.find((r) => r.id === id)?.fitted);
      setHold({ what: "end", id, end: Number(handle.dataset.end), wasFitted });
    } else if (tool === "rectangle" && measuring) {
      const next = [...corners, toSource(event)];
      if (next.length === 4) void placeRectangle(next as [Point, Point, Point, Point], false);
      else setCorners(next);
    } else if (tool === "trace" && measuring) {
      // The second click of a double click only ends the trace.
      if (event.detail < 2) setCorners([...corners, toSource(event)]);
    } else if (tool && tool !== "rectangle" && measuring) {
      event.currentTarget.setPointerCapture(event.pointerId);
      const start = toSource(event);
      setHold({ what: "draw", reading: newReading(tool, [start, start], view.zoom), base: bench.acts.latest() });
    } else {
      onSelect((event.target as Element).closest<SVGElement>("[data-line]")?.dataset.line);
    }
  };

  const onPointerMove = (event: PointerEvent<HTMLDivElement>) => {
    if (hold?.what === "pan") {
      view.panBy(event.clientX - hold.last[0], event.clientY - hold.last[1]);
      setHold({ what: "pan", last: [event.clientX, event.clientY] });
    } else if (hold?.what === "draw") {
      const reading: Reading = { ...hold.reading, points: [...hold.reading.points.slice(0, 1), toSource(event)] };
      setHold({ ...hold, reading });
      if (drawnPx(reading) >= MIN_DRAG_PX) bench.acts.preview(withReadings(hold.base, reading), { still: true });
    } else if (hold?.what === "end") {
      bench.acts.preview(withPoint(bench.acts.latest(), hold.id, hold.end, toSource(event), sigmaAt(view.zoom)), { still: true });
    }
  };

  const onPointerUp = () => {
    if (hold?.what === "draw") {
      if (drawnPx(hold.reading) >= MIN_DRAG_PX) {
        onTool(undefined);
        onSelect(hold.reading.id);
        void place([hold.reading], fitting, `${hold.reading.kind} reading added`);
      } else bench.acts.drop();
    } else if (hold?.what === "end") {
      const recipe = bench.acts.latest();
      const moved = recipe.readings.find((r) => r.id === hold.id);
      if (moved) void place(linkedWith(recipe, moved), hold.wasFitted, "reading moved");
    }
    setHold(undefined);
  };

  const onKeyDown = (event: KeyboardEvent<HTMLDivElement>) => {
    const handle = (event.target as Element).closest<SVGElement>("[data-end]");
    if (handle) moveEndByKey(event, handle.dataset.reading as string, Number(handle.dataset.end));
    else if (event.key === "Enter" && tool === "trace" && corners.length > 0) endTrace();
    else if (event.key === "Enter" && tool && event.target === event.currentTarget) placeByKey(tool);
  };

  const moveEndByKey = (event: KeyboardEvent, id: string, end: number) => {
    const direction = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const reading = bench.acts.latest().readings.find((r) => r.id === id);
    if (!direction || !reading || event.ctrlKey) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? 20 : event.altKey ? 0.1 : 1;
    const [x, y] = handPoints(reading)[end] as Point;
    const point = inside([x + (direction[0] as number) * step, y + (direction[1] as number) * step]);
    // Placed by key the end is as good as the step, not as the pointer.
    bench.acts.commitSoon(withPoint(bench.acts.latest(), id, end, point, Math.min(reading.sigma_px, 1)), "reading moved", { still: true });
  };

  const placeByKey = (kind: Tool) => {
    const at = (x: number, y: number): Point => [width * x, height * y];
    if (kind === "trace") {
      const reading = newReading("trace", [at(0.15, 0.15), at(0.5, 0.15), at(0.85, 0.15)], view.zoom);
      onTool(undefined);
      onSelect(reading.id);
      onPlacedByKey(`${reading.id}-0`);
      return void bench.acts.commit(withReadings(bench.acts.latest(), reading), "trace added");
    }
    if (kind === "rectangle") return void placeRectangle([at(0.3, 0.3), at(0.7, 0.3), at(0.7, 0.7), at(0.3, 0.7)], true);
    const points: [Point, Point] = kind === "plumb" ? [at(0.5, 0.2), at(0.5, 0.8)] : [at(0.2, 0.5), at(0.8, 0.5)];
    const reading = newReading(kind, points, view.zoom);
    onTool(undefined);
    onSelect(reading.id);
    onPlacedByKey(`${reading.id}-0`);
    void bench.acts.commit(withReadings(bench.acts.latest(), reading), `${kind} reading added`);
  };

  return { corners, space, on: { onPointerDown, onPointerMove, onPointerUp, onPointerCancel: onPointerUp, onKeyDown, onDoubleClick: () => tool === "trace" && corners.length > 0 && endTrace() } };
}
