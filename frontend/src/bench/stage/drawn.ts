/* The readings as the stage draws them: from the points that the server gives, and the one in the
   hand where the hand is. */
import type { SolvedReading } from "../../api/client";
import type { Bench } from "../useBench";
import { between, mapped, type Point } from "../../picture/geometry";
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
export function sourcePointOf(
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

interface Looked extends KeyedEnd {
  stage: Point;
  picture: Point;
}

/** The end that the loupe follows, on the stage and in the picture. */
export function lookedAt(end: KeyedEnd | undefined, readings: Drawn[]): Looked | undefined {
  const reading = readings.find((other) => other.id === end?.id);
  const stage = end && reading?.handles[end.end];
  const picture = end && reading?.inPicture[end.end];
  return end && stage && picture ? { ...end, stage, picture } : undefined;
}
