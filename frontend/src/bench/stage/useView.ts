/* What part of the plane the stage shows: fitted, or zoomed and panned by hand. */
import { useState } from "react";
import type { PictureState, Solution } from "../../api/client";
import { laying, nearby, type Linear } from "../../picture/laying";
import {
  clamp,
  fromRows,
  inverse,
  mapped,
  product,
  scaling,
  translation,
  type Matrix,
  type Point,
} from "../../picture/geometry";

const MARGIN_PX = 10;
/** Of a stage that is small either way every pixel is the picture's. */
const SMALL_PX = { width: 800, height: 400 };
const SMALL_MARGIN_PX = 4;
const MAX_ZOOM = 32;

/** How far in the stage is zoomed, and where its middle has been moved. */
export interface Zoomed {
  zoom: number;
  pan: Point;
}

export interface View extends Zoomed {
  /** Plane of the corrected picture to stage pixels. */
  plane: Matrix;
  /** What is seen, whose pixels the points on the stage are given in. */
  seen: "as_shot" | "undistorted" | "corrected";
  /** The picture as shot, or the undistorted one, to stage pixels, but for what bends. */
  picture: Matrix;
  /** How a place on the stage moves when a point of the picture moves by one, in row order. */
  turnedAt: (point: Point) => Linear;
  /** A point of the undistorted picture on the stage; of the one as shot where that is seen. */
  lay: (point: Point) => Point;
  /** A point of the picture that is seen on the stage, and the other way round. */
  toStage: (point: Point) => Point;
  fromStage: (point: Point) => Point;
  /** Source pixels to stage pixels as shot, for comparing: aligned with the corrected picture. */
  asShot: Matrix;
  /** Where on the stage a pointer is. */
  at: (client: readonly [number, number]) => Point;
  /** Zoom from how it was, so that what lay at one point of the stage comes to lie at another. */
  zoomFrom: (before: Zoomed, factor: number, from: Point, to?: Point) => void;
  /** Back to how it was. */
  lookAt: (zoomed: Zoomed) => void;
  /** What tells how near the picture is seen; the same while it only turns. */
  near: { zoom: number; fitted: boolean; fit: () => void };
}

interface Options {
  /** The stage's box in the window, asked for when a pointer is there. */
  box: () => DOMRect;
  size: { width: number; height: number };
  state: PictureState;
  shown: Solution;
  asShot: boolean;
  /** Keeps the fitted zoom as it is while something is in the hand. */
  frozen: boolean;
}

export function useView({ box, size, state, shown, asShot, frozen }: Options): View {
  const [hand, setHand] = useState<Zoomed>();
  // The frame may reach beyond the picture, where corners are filled: both are to be seen.
  const { plane: whole, frame } = shown;
  const [left, top] = asShot ? [0, 0] : [Math.min(0, frame.x), Math.min(0, frame.y)];
  const right = asShot ? whole.width : Math.max(whole.width, frame.x + frame.width);
  const bottom = asShot ? whole.height : Math.max(whole.height, frame.y + frame.height);
  const aside = [
    useFrozen((left + right - whole.width) / 2, frozen),
    useFrozen((top + bottom - whole.height) / 2, frozen),
  ] as const;
  const margin =
    size.width < SMALL_PX.width || size.height < SMALL_PX.height ? SMALL_MARGIN_PX : MARGIN_PX;
  const fitted = Math.min(
    (size.width - 2 * margin) / (right - left),
    (size.height - 2 * margin) / (bottom - top),
  );
  const fitZoom = useFrozen(Math.max(fitted, 0.001), frozen);
  const { zoom, pan }: Zoomed = hand ?? { zoom: fitZoom, pan: [0, 0] };

  const middle: [number, number] = [whole.width / 2, whole.height / 2];
  const plane = product(
    translation(size.width / 2 + pan[0], size.height / 2 + pan[1]),
    scaling(zoom),
    translation(-middle[0] - aside[0], -middle[1] - aside[1]),
  );
  const asShotPlane = translation(
    middle[0] - state.file.width / 2,
    middle[1] - state.file.height / 2,
  );
  // Beside or behind the corrected picture the middle of the one as shot lies where that middle
  // has gone.
  const centre: Point = [state.file.width / 2, state.file.height / 2];
  const laid = laying(shown);
  const [cx, cy] = laid(centre);
  const aligned = product(plane, translation(cx - centre[0], cy - centre[1]));
  const picture = asShot ? product(plane, asShotPlane) : product(plane, fromRows(shown.homography));

  const lay = (point: Point): Point =>
    asShot ? mapped(picture, point) : mapped(plane, laid(point));
  // Where the picture bends, only the server can tell what of it lies where.
  const seen = asShot ? "as_shot" : shown.bend ? "corrected" : "undistorted";
  const points = seen === "corrected" ? plane : picture;

  return {
    zoom,
    pan,
    plane,
    seen,
    picture,
    lay,
    toStage: (point) => mapped(points, point),
    fromStage: (point) => mapped(inverse(points), point),
    turnedAt: (point) => {
      const at = seen === "corrected" ? nearby(shown, point) : point;
      const [x, y] = lay(at);
      const [ax, ay] = lay([at[0] + 1, at[1]]);
      const [bx, by] = lay([at[0], at[1] + 1]);
      return [ax - x, bx - x, ay - y, by - y];
    },
    asShot: aligned,
    at: ([x, y]) => {
      const { left, top } = box();
      return [x - left, y - top];
    },
    zoomFrom: (before, factor, from, to = from) => {
      const next = clamp(before.zoom * factor, Math.min(fitZoom, 0.05), MAX_ZOOM);
      const k = next / before.zoom;
      const aside = (p: Point, extent: 0 | 1) =>
        p[extent] - (extent ? size.height : size.width) / 2;
      const panned = (extent: 0 | 1) =>
        aside(to, extent) - (aside(from, extent) - before.pan[extent]) * k;
      setHand({ zoom: next, pan: [panned(0), panned(1)] });
    },
    lookAt: setHand,
    near: { zoom, fitted: !hand, fit: () => setHand(undefined) },
  };
}

function useFrozen(value: number, frozen: boolean): number {
  const [kept, setKept] = useState(value);
  if (!frozen && kept !== value) setKept(value);
  return frozen ? kept : value;
}
