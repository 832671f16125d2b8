/* The reduced picture, as shot or freed of the bow of the lens by the server, laid on the stage by
   a matrix. */
import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { PictureState, Solution } from "../api/client";
import { later } from "../shared/later";
import { laying } from "./laying";
import { proxyOf } from "./proxyOf";
import {
  css,
  fromRows,
  inverse,
  mapped,
  product,
  scaling,
  translation,
  type Matrix,
  type Point,
} from "./geometry";

const BentPicture = later(async () => (await import("./BentPicture")).BentPicture);
const Picture = chakra("img");
const EDGE_PX = 1400;

let drawable: boolean | undefined;

/** Whether the browser can; where it cannot, the picture shows bent as soon as the hand rests. */
function canDrawBent(): boolean {
  drawable ??= document.createElement("canvas").getContext("webgl") !== null;
  return drawable;
}

/** What is needed of a picture to draw it, with what corrects it. */
export interface Shot {
  state: Pick<PictureState, "file" | "proxy_scale" | "addresses">;
  shown: Solution;
}

interface Props {
  bench: Shot;
  /** Takes pixels of the picture as shot, or of the undistorted one, to stage pixels. */
  laid: Matrix;
  alt: string;
  moving?: boolean;
  undistorted?: boolean;
}

export function ProxyPicture({ bench, laid, alt, moving, undistorted }: Props) {
  const { file, proxy_scale: scale } = bench.state;
  const whole: Shown = {
    src: proxyOf(bench.state),
    box: [0, 0, file.width, file.height],
    width: Math.round(file.width * scale),
    height: Math.round(file.height * scale),
  };
  const bowed = bench.shown.lens.polynomial.some((c) => c !== 0);
  const shown = useLoaded(undistorted && bowed ? undistortedImage(bench) : whole, whole);
  const matrix = product(
    laid,
    translation(shown.box[0], shown.box[1]),
    scaling(shown.box[2] / shown.width, shown.box[3] / shown.height),
  );
  if (undistorted && bench.shown.bend && canDrawBent()) {
    const lay = laying(bench.shown);
    // What takes the turned picture to the stage takes the bent one there too.
    const plane = product(laid, inverse(fromRows(bench.shown.homography)));
    const [x, y, width, height] = shown.box;
    return (
      <BentPicture
        src={shown.src}
        alt={alt}
        place={([u, v]) => mapped(plane, lay([x + u * width, y + v * height]))}
        clip={bench.shown.outline.map((point) => mapped(plane, point as Point))}
      />
    );
  }
  return (
    <Picture
      src={shown.src}
      alt={alt}
      draggable={false}
      position="absolute"
      top="0"
      left="0"
      maxWidth="none"
      transformOrigin="0 0"
      // A layer of its own makes a turn cheap to draw; at rest the picture is drawn with all the
      // smoothing there is.
      willChange={moving ? "transform" : undefined}
      width={`${shown.width}px`}
      height={`${shown.height}px`}
      style={{ transform: css(matrix), clipPath: shown.clip }}
    />
  );
}

interface Shown {
  src: string;
  box: readonly [number, number, number, number];
  width: number;
  height: number;
  clip?: string;
}

function undistortedImage({ state, shown }: Shot): Shown {
  const { box, polynomial, tangential, centre } = shown.lens;
  const [x, y, width, height] = box;
  const [c1, c2, c3, c4, c5, c6] = polynomial;
  const [p1, p2] = tangential;
  const [centre_x, centre_y] = centre;
  const lens = { c1, c2, c3, c4, c5, c6, p1, p2, centre_x, centre_y };
  const query = Object.entries({ ...lens, x, y, width, height, edge: EDGE_PX }).map(
    ([name, value]) => `${name}=${value}`,
  );
  const scale = EDGE_PX / Math.max(width, height);
  // What lies beyond the border of the picture is not shown.
  const border = shown.lens.border.map(
    ([px, py]) => `${((px - x) / width) * 100}% ${((py - y) / height) * 100}%`,
  );
  return {
    clip: `polygon(${border.join(", ")})`,
    src: `${state.addresses.original}/undistorted.jpg?${query.join("&")}`,
    box,
    width: Math.round(width * scale),
    height: Math.round(height * scale),
  };
}

/**
 * What is wanted as soon as it has come; until then the one shown before. One request at a time,
 * the newest next.
 */
function useLoaded(wanted: Shown, whole: Shown): Shown {
  const [shown, setShown] = useState(whole);
  const loading = useRef(false);
  const ready = wanted.src === whole.src ? whole : shown.src === wanted.src ? shown : undefined;
  useEffect(() => {
    if (ready || loading.current) return;
    const image = new window.Image();
    loading.current = true;
    const done = (next: Shown) => () => {
      loading.current = false;
      setShown(next);
    };
    image.onload = done(wanted);
    image.onerror = done({ ...whole });
    image.src = wanted.src;
  }, [ready, shown, wanted, whole]);
  return ready ?? shown;
}
