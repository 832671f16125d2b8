/* Comparing with the picture as shot: beside the corrected one, behind a movable divider, or as an outline. */
import { Box, chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Solution } from "../api/client";
import { between, clamp, css, isStraight, mapped, polygon, product, scaling, straightened, translation, type Matrix, type Point } from "./geometry";
import type { Bench } from "./useBench";

export type Showing = "shot" | "beside" | "divided" | "corrected";
export const SHOWINGS: [Showing, string, string][] = [
  ["shot", "As shot", "The picture as shot (B held)"],
  ["beside", "Beside", "As shot and corrected side by side"],
  ["divided", "Divided", "As shot and corrected on either side of a divider that can be dragged"],
  ["corrected", "Corrected", "The corrected picture"],
];

const Picture = chakra("img");
const Divider = chakra("div");

interface PictureProps {
  bench: Bench;
  source: Matrix;
  alt: string;
  moving?: boolean;
  /** Freed of the bow of the lens, if there is one. */
  straight?: boolean;
}

/** The reduced picture laid on the stage by a matrix that takes pixels of the (straight) picture to stage pixels. */
export function ProxyPicture({ bench, source, alt, moving, straight }: PictureProps) {
  const { id, file, proxy_scale: scale } = bench.state;
  const { bow } = bench.shown;
  const whole: Straight = { src: `/api/pictures/${id}/proxy.jpg`, box: [0, 0, file.width, file.height], width: Math.round(file.width * scale), height: Math.round(file.height * scale) };
  const wanted = straight && !isStraight(bow) ? straightImage(id, file, bow) : whole;
  const shown = useLoaded(wanted, whole);
  const matrix = product(source, translation(shown.box[0], shown.box[1]), scaling(shown.box[2] / shown.width, shown.box[3] / shown.height));
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
      // A layer of its own makes a turn cheap to draw; at rest the picture is drawn with all the smoothing there is.
      willChange={moving ? "transform" : undefined}
      width={`${shown.width}px`}
      height={`${shown.height}px`}
      style={{ transform: css(matrix), clipPath: shown.clip }}
    />
  );
}

interface Straight {
  clip?: string;
  src: string;
  box: readonly [number, number, number, number];
  width: number;
  height: number;
}

const STRAIGHT_EDGE_PX = 1400;
const BORDER_STEPS = 20;

function straightImage(id: number, file: { width: number; height: number }, bow: Solution["bow"]): Straight {
  const [x, y, width, height] = bow.box;
  const [c1, c2, c3, c4] = bow.polynomial;
  const query = Object.entries({ c1, c2, c3, c4, x, y, width, height, edge: STRAIGHT_EDGE_PX }).map(([name, value]) => `${name}=${value}`);
  const scale = STRAIGHT_EDGE_PX / Math.max(width, height);
  // What lies beyond the border of the picture is not shown.
  const corners: Point[] = [[0, 0], [file.width, 0], [file.width, file.height], [0, file.height]];
  const border = corners.flatMap((corner, i) => Array.from({ length: BORDER_STEPS }, (_, step) => between(corner, corners[(i + 1) % 4] as Point, step / BORDER_STEPS)));
  const clip = border.map((point) => straightened(bow, point)).map(([px, py]) => `${((px - x) / width) * 100}% ${((py - y) / height) * 100}%`);
  return { clip: `polygon(${clip.join(", ")})`, src: `/api/pictures/${id}/straight.jpg?${query.join("&")}`, box: bow.box, width: Math.round(width * scale), height: Math.round(height * scale) };
}

/** What is wanted as soon as it has come; until then the one shown before. One request at a time, the newest next. */
function useLoaded(wanted: Straight, whole: Straight): Straight {
  const [shown, setShown] = useState(whole);
  const loading = useRef(false);
  const ready = wanted.src === whole.src ? whole : shown.src === wanted.src ? shown : undefined;
  useEffect(() => {
    if (ready || loading.current) return;
    const image = new window.Image();
    loading.current = true;
    const done = (next: Straight) => () => {
      loading.current = false;
      setShown(next);
    };
    image.onload = done(wanted);
    image.onerror = done({ ...whole });
    image.src = wanted.src;
  }, [ready, shown, wanted, whole]);
  return ready ?? shown;
}

/** The left half of the stage when both pictures are shown side by side. */
export function AsShotPane({ bench, asShot }: { bench: Bench; asShot: Matrix }) {
  return (
    <Box position="relative" flex="1" minWidth="0" overflow="hidden" bg="stage" borderRightWidth="2px" borderColor="onPicture" role="group" aria-label="As shot beside">
      <ProxyPicture bench={bench} source={asShot} alt={`${bench.state.file.name}, as shot`} />
      <Tag left="12px">as shot</Tag>
    </Box>
  );
}

/** The picture as shot on the left of a divider. */
export function DividedShot({ bench, asShot, size, share, onShare }: { bench: Bench; asShot: Matrix; size: { width: number; height: number }; share: number; onShare: (share: number) => void }) {
  const held = useRef(false);
  const x = share * size.width;
  const hands = {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = true;
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const box = event.currentTarget.parentElement?.getBoundingClientRect();
      if (held.current && box) onShare(clamp((event.clientX - box.left) / box.width, 0, 1));
    },
    onPointerUp: () => (held.current = false),
    onPointerCancel: () => (held.current = false),
    onKeyDown: (event: KeyboardEvent) => {
      const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!way) return;
      event.preventDefault();
      event.stopPropagation();
      onShare(clamp(share + way * (event.shiftKey ? 0.1 : 0.02), 0, 1));
    },
  };
  return (
    <>
      <Box position="absolute" top="0" bottom="0" left="0" overflow="hidden" bg="stage" pointerEvents="none" style={{ width: x }}>
        <ProxyPicture bench={bench} source={asShot} alt={`${bench.state.file.name}, as shot`} />
        <Tag left="12px">as shot</Tag>
      </Box>
      <Divider
        role="slider"
        tabIndex={0}
        aria-label="Divider"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(share * 100)}
        position="absolute"
        top="0"
        bottom="0"
        width="18px"
        ml="-9px"
        cursor="col-resize"
        touchAction="none"
        style={{ left: x }}
        _before={{ content: '""', position: "absolute", left: "8px", top: 0, bottom: 0, width: "2px", bg: "onPicture", boxShadow: "0 0 3px rgba(0,0,0,.6)" }}
        _after={{ content: '""', position: "absolute", left: "1px", top: "50%", width: "16px", height: "34px", mt: "-17px", bg: "onPicture", borderRadius: "8px", boxShadow: "0 0 4px rgba(0,0,0,.5)" }}
        {...hands}
      />
    </>
  );
}

/** Where the frame of the camera was, over the corrected picture. */
export function ShotOutline({ asShot, file }: { asShot: Matrix; file: { width: number; height: number } }) {
  const corners: Point[] = [[0, 0], [file.width, 0], [file.width, file.height], [0, file.height]];
  const path = polygon(corners.map((p) => mapped(asShot, p)));
  return (
    <g pointerEvents="none" data-outline>
      <path d={path} stroke="#000" strokeOpacity=".5" strokeWidth="3" />
      <path d={path} stroke="#ffd27d" strokeWidth="1.4" strokeDasharray="10 6" />
    </g>
  );
}

export function Tag({ children, left, right }: { children: string; left?: string; right?: string }) {
  return (
    <Box position="absolute" top="12px" left={left} right={right} bg="inkOnPicture" color="onPicture" px="10px" py="5px" borderRadius="4px" fontWeight="600" whiteSpace="nowrap" pointerEvents="none">
      {children}
    </Box>
  );
}
