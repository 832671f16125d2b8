/* What part of the plane the stage shows: fitted, or zoomed and panned by hand. */
import { useEffect, useRef, useState } from "react";
import type { PictureState, Solution } from "../api/client";
import { bent, clamp, fromRows, inverse, mapped, product, scaling, straightened, translation, type Matrix, type Point } from "./geometry";

const MARGIN_PX = 26;
const MAX_ZOOM = 32;

interface Hand {
  zoom: number;
  pan: [number, number];
}

export interface View {
  zoom: number;
  fitted: boolean;
  /** Plane of the corrected picture to stage pixels. */
  plane: Matrix;
  /** Pixels of the straight picture (as shot: of the source) to stage pixels. */
  source: Matrix;
  /** A source pixel on the stage, and the other way round. */
  toStage: (point: Point) => Point;
  toSource: (point: Point) => Point;
  /** Source pixels to stage pixels as shot, for comparing: aligned with the corrected picture. */
  asShot: Matrix;
  zoomAt: (factor: number, x: number, y: number) => void;
  panBy: (dx: number, dy: number) => void;
  fit: () => void;
}

/** `frozen` keeps the fitted zoom as it is while something is in the hand. */
export function useView(size: { width: number; height: number }, state: PictureState, shown: Solution, asShot: boolean, frozen: boolean): View {
  const [hand, setHand] = useState<Hand>();
  // The frame may reach beyond the picture, where corners are filled: both are to be seen.
  const { plane: whole, frame } = shown;
  const [left, top] = asShot ? [0, 0] : [Math.min(0, frame.x), Math.min(0, frame.y)];
  const right = asShot ? whole.width : Math.max(whole.width, frame.x + frame.width);
  const bottom = asShot ? whole.height : Math.max(whole.height, frame.y + frame.height);
  const aside = [useFrozen((left + right - whole.width) / 2, frozen), useFrozen((top + bottom - whole.height) / 2, frozen)] as const;
  const fitted = Math.min((size.width - 2 * MARGIN_PX) / (right - left), (size.height - 2 * MARGIN_PX) / (bottom - top));
  const fitZoom = useFrozen(Math.max(fitted, 0.001), frozen);
  const { zoom, pan } = hand ?? { zoom: fitZoom, pan: [0, 0] };

  const middle: [number, number] = [whole.width / 2, whole.height / 2];
  const plane = product(
    translation(size.width / 2 + pan[0], size.height / 2 + pan[1]),
    scaling(zoom),
    translation(-middle[0] - aside[0], -middle[1] - aside[1]),
  );
  const asShotPlane = translation(middle[0] - state.file.width / 2, middle[1] - state.file.height / 2);
  const shotSource = product(plane, asShotPlane);
  // Beside or behind the corrected picture the middle of the one as shot lies where that middle has gone.
  const centre: Point = [state.file.width / 2, state.file.height / 2];
  const [cx, cy] = mapped(fromRows(shown.homography), centre);
  const aligned = product(plane, translation(cx - centre[0], cy - centre[1]));
  const source = asShot ? shotSource : product(plane, fromRows(shown.homography));

  return {
    zoom,
    fitted: !hand,
    plane,
    source,
    toStage: (point) => mapped(source, asShot ? point : straightened(shown.bow, point)),
    toSource: (point) => (asShot ? mapped(inverse(source), point) : bent(shown.bow, mapped(inverse(source), point))),
    asShot: aligned,
    zoomAt: (factor, x, y) => {
      const next = clamp(zoom * factor, Math.min(fitZoom, 0.05), MAX_ZOOM);
      const k = next / zoom;
      const from: [number, number] = [x - size.width / 2, y - size.height / 2];
      setHand({ zoom: next, pan: [from[0] - (from[0] - pan[0]) * k, from[1] - (from[1] - pan[1]) * k] });
    },
    panBy: (dx, dy) => setHand({ zoom, pan: [pan[0] + dx, pan[1] + dy] }),
    fit: () => setHand(undefined),
  };
}

function useFrozen(value: number, frozen: boolean): number {
  const [kept, setKept] = useState(value);
  if (!frozen && kept !== value) setKept(value);
  return frozen ? kept : value;
}

export function useSize<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, size] as const;
}
