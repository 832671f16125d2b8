/* Which pointer may do what: a finger draws until a pen was seen, then it only moves the picture;
   a palm does nothing. And how far what is in the hand goes with a finger: the slower, the
   finer. */
import type { Point } from "../../picture/geometry";

export type Role = "draws" | "moves" | "nothing";

/** A wider touch is a palm; set by hand, a finger is seldom wider than 60. */
const PALM_PX = 90;
/** So long after the pen was last there, touches are those of the hand that holds it. */
const PEN_RESTS_MS = 400;
/** A finger that moves no faster than this is placing something, in pixels in a second. */
const SLOW_PX_S = 30;
/** From this speed on, what is in the hand keeps up with it. */
const FAST_PX_S = 180;
const FINEST = 0.25;

export interface Pressed {
  pointerType: string;
  /** How wide the touch is. */
  width: number;
  timeStamp: number;
}

/** What is known of the pointers of a window. */
export function newPointers() {
  let seen = false;
  let last = -Infinity;
  return {
    /** A pen is there, over the glass or on it. */
    penIs: (timeStamp: number) => {
      seen = true;
      last = timeStamp;
    },
    roleOf: ({ pointerType, width, timeStamp }: Pressed): Role => {
      if (pointerType !== "touch") return "draws";
      if (width > PALM_PX || timeStamp - last < PEN_RESTS_MS) return "nothing";
      return seen ? "moves" : "draws";
    },
  };
}

/** Where something in the hand comes to lie when a finger moves: nearer the slower it moves. */
export function finely([x, y]: Point, [dx, dy]: Point, elapsed_ms: number): Point {
  const speed = (1000 * Math.hypot(dx, dy)) / Math.max(elapsed_ms, 1);
  const share = Math.min(1, Math.max(0, (speed - SLOW_PX_S) / (FAST_PX_S - SLOW_PX_S)));
  const gain = FINEST + (1 - FINEST) * share;
  return [x + dx * gain, y + dy * gain];
}
