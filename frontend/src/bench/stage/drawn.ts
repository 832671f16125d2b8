/* The readings as the stage draws them: from the points that the server gives, and the one in the
   hand where the hand is. */
import type { SolvedReading } from "../../api/client";
import type { Bench } from "../useBench";
import { between, type Point } from "./geometry";
import type { DrawnReading } from "./ReadingOnStage";
import type { Settled } from "./useHand";
import type { View } from "./useView";

export type InHand = Settled;

const PIECES = 16;

export interface Drawn extends DrawnReading {
  /** The handles in pixels of the picture that is seen. */
  inPicture: Point[];
}

export function drawnReadings(bench: Bench, view: View, inHand: InHand | undefined): Drawn[] {
  const hidden = new Set(
    bench.recipe.readings.filter((reading) => reading.hidden).map((reading) => reading.id),
  );
  const shown = bench.solution.readings
    .filter((reading) => !hidden.has(reading.id))
    .map((reading) => drawn(reading, view, inHand));
  if (inHand?.what !== "draw" || shown.some((reading) => reading.id === inHand.id)) return shown;
  return [
    ...shown,
    laid(
      view,
      { ...inHand, number: bench.solution.readings.length + 1, active: true },
      inHand.points,
      inHand.points,
    ),
  ];
}

function drawn(reading: SolvedReading, view: View, inHand: InHand | undefined): Drawn {
  const undistorted = view.seen === "undistorted";
  const points = undistorted ? reading.undistorted_points : reading.points;
  const handles = undistorted ? reading.undistorted_hand_points : reading.hand_points;
  if (inHand?.id !== reading.id) return laid(view, reading, points, handles);
  if (inHand.what === "draw") return laid(view, reading, inHand.points, inHand.points);
  const moved = handles.map((point, end) => (end === inHand.end ? inHand.at : point));
  return laid(view, reading, moved, moved);
}

function laid(
  view: View,
  { id, number, kind, active }: Pick<DrawnReading, "id" | "number" | "kind" | "active">,
  points: readonly Point[],
  handles: readonly Point[],
): Drawn {
  return {
    id,
    number,
    kind,
    active,
    points: (kind === "trace" ? points : closely(points, view)).map(view.toStage),
    handles: handles.map(view.toStage),
    inPicture: [...handles],
  };
}

/** Where the picture bends, a line between two points is drawn by many. */
function closely(points: readonly Point[], view: View): readonly Point[] {
  if (!view.bends) return points;
  return points.flatMap((point, place) => {
    const next = points[place + 1];
    if (!next) return [point];
    return Array.from({ length: PIECES }, (_, n) => between(point, next, n / PIECES));
  });
}

/**
 * Where an end lies in the picture as shot: where it is drawn, or for a picture freed of bow where
 * the server says.
 */
export function sourcePointOf(
  bench: Bench,
  view: View,
  id: string,
  end: number,
  picture: Point,
): Point | undefined {
  const straight = bench.shown.lens.polynomial.every((c) => c === 0);
  if (straight || view.seen === "as_shot") return picture;
  return bench.solution.readings.find((reading) => reading.id === id)?.hand_points[end];
}
