/* The readings as the stage draws them: from the points that the server gives, and the one in the
   hand where the hand is. */
import type { SolvedReading } from "../../api/client";
import type { Bench } from "../useBench";
import { between, distance, mapped, type Point } from "../../picture/geometry";
import type { Desk } from "../useDesk";
import type { DrawnReading, KeyedEnd } from "./ReadingOnStage";
import type { Settled } from "./tools";
import type { View } from "./useView";

const PIECES = 16;

export interface Drawn extends DrawnReading {
  /** The handles in pixels of the picture that is seen. */
  inPicture: Point[];
}

export function drawnReadings(bench: Bench, view: View, inHand: Settled | undefined): Drawn[] {
  const hidden = new Set(
    bench.recipe.readings.filter((reading) => reading.hidden).map((reading) => reading.id),
  );
  const shown = bench.solution.readings
    .filter((reading) => !hidden.has(reading.id))
    .map((reading) => drawn(reading, view, inHand, bench.shown !== bench.solution));
  if (inHand?.what !== "draw" || shown.some((reading) => reading.id === inHand.id)) return shown;
  const { id, points } = inHand;
  // What a straight line is, the server says at once.
  const kind = inHand.kind === "straight" ? "check" : inHand.kind;
  const number = bench.solution.readings.length + 1;
  return [...shown, held(view, { id, number, kind, active: true }, points)];
}

function drawn(
  reading: SolvedReading,
  view: View,
  inHand: Settled | undefined,
  still: boolean,
): Drawn {
  const onStage = placed(reading, view, still);
  if (inHand?.id !== reading.id) return told(reading, onStage, view);
  if (inHand.what === "draw") return held(view, reading, inHand.points);
  // A whole line that is moved lies where the server says.
  if (inHand.what === "line") return told(reading, onStage, view);
  return held(
    view,
    reading,
    onStage.handles.map((point, end) => (end === inHand.end ? inHand.at : view.fromStage(point))),
  );
}

type OnStage = Pick<Drawn, "points" | "handles">;

/**
 * Where a reading lies on the stage: where the server says; while the picture stands still under a
 * reading that moves, where the undistorted picture lies.
 */
function placed(reading: SolvedReading, view: View, still: boolean): OnStage {
  const { lay } = view;
  if (view.seen === "as_shot")
    return { points: reading.points.map(lay), handles: reading.hand_points.map(lay) };
  if (still)
    return {
      points: closely(reading.undistorted_points, reading.kind, view).map(lay),
      handles: reading.undistorted_hand_points.map(lay),
    };
  const onPlane = (point: Point) => mapped(view.plane, point);
  return {
    points: reading.corrected_points.map(onPlane),
    handles: reading.corrected_hand_points.map(onPlane),
  };
}

type Named = Pick<DrawnReading, "id" | "number" | "kind" | "active">;

function told(
  { id, number, kind, active }: Named,
  { points, handles }: OnStage,
  view: View,
): Drawn {
  return { id, number, kind, active, points, handles, inPicture: handles.map(view.fromStage) };
}

/** One in the hand, by its points in the picture that is seen. */
function held(view: View, reading: Named, points: readonly Point[]): Drawn {
  const onStage = points.map(view.toStage);
  return { ...told(reading, { points: onStage, handles: onStage }, view), inPicture: [...points] };
}

/** Where the picture bends, a line between two points is drawn by many. */
function closely(
  points: readonly Point[],
  kind: DrawnReading["kind"],
  view: View,
): readonly Point[] {
  if (view.seen !== "corrected" || kind === "trace") return points;
  return points.flatMap((point, place) => {
    const next = points[place + 1];
    if (!next) return [point];
    return Array.from({ length: PIECES }, (_, n) => between(point, next, n / PIECES));
  });
}

/**
 * Where an end lies in the picture as shot: where it is drawn, or for a picture freed of bow, or
 * bent, where the server says.
 */
function sourcePointOf(
  bench: Bench,
  view: View,
  id: string,
  end: number,
  picture: Point,
): Point | undefined {
  const straight = bench.shown.lens.polynomial.every((c) => c === 0);
  if (view.seen === "as_shot" || (straight && view.seen === "undistorted")) return picture;
  return bench.solution.readings.find((reading) => reading.id === id)?.hand_points[end];
}

/** The end of what is in the hand that moves; a line that is moved whole has none. */
export function endOf(hold: Settled): KeyedEnd | undefined {
  if (hold.what === "line") return undefined;
  return { id: hold.id, end: hold.what === "draw" ? 1 : hold.end };
}

/** Where the loupe is that runs along a reading: on the stage, in the source, in the picture. */
function alongReading(bench: Bench, view: View, reading: Drawn, share: number) {
  const solved = bench.solution.readings.find(({ id }) => id === reading.id);
  if (!solved) return undefined;
  const stage = onWay(reading.points, share);
  const source = onWay(solved.along.length ? solved.along : solved.points, share);
  return { stage, source, picture: view.fromStage(stage) };
}

/** The place at a share of the length of a way. */
function onWay(points: readonly Point[], share: number): Point {
  const lengths = points.slice(1).map((point, place) => distance(points[place] as Point, point));
  let left = share * lengths.reduce((sum, length) => sum + length, 0);
  for (const [place, length] of lengths.entries()) {
    const last = place === lengths.length - 1;
    if (left <= length || last)
      return between(
        points[place] as Point,
        points[place + 1] as Point,
        length > 0 ? Math.min(1, left / length) : 0,
      );
    left -= length;
  }
  return points[0] as Point;
}

interface Looked extends KeyedEnd {
  stage: Point;
  picture: Point;
}

interface Loupe {
  bench: Bench;
  view: View;
  desk: Desk;
  looked: Looked | undefined;
  readings: Drawn[];
}

/** Where the loupe is: at the end in the hand, or along the reading that is lit. */
export function loupeAt({ bench, view, desk, looked, readings }: Loupe) {
  if (looked) {
    const { id, end, picture, stage } = looked;
    const source = sourcePointOf(bench, view, id, end, picture);
    return source && { stage, source, picture };
  }
  const lit = readings.find(({ id }) => id === desk.selected);
  return lit && desk.along !== undefined ? alongReading(bench, view, lit, desk.along) : undefined;
}

/** The end that the loupe follows, on the stage and in the picture. */
export function lookedAt(end: KeyedEnd | undefined, readings: Drawn[]): Looked | undefined {
  const reading = readings.find((other) => other.id === end?.id);
  const stage = end && reading?.handles[end.end];
  const picture = end && reading?.inPicture[end.end];
  return end && stage && picture ? { ...end, stage, picture } : undefined;
}
