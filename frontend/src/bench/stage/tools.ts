/* What can be in the hand on the stage. */
import type { Kind } from "../../api/client";
import type { Point } from "../../picture/geometry";
import type { Zoomed } from "./useView";

/** A straight line is level or plumb, whichever it is nearer to: the server says which. */
export type Tool = Kind | "rectangle" | "straight";

/** What is in the hand; points are in pixels of the picture that is seen. */
export type Hold =
  | { what: "draw"; id: string; kind: Kind | "straight"; points: [Point, Point] }
  | { what: "end"; id: string; end: number; at: Point }
  | { what: "line"; id: string; from: Point; at: Point }
  /** The picture about the middle of its frame, on the stage. */
  | { what: "turn"; about: Point; from: number }
  | { what: "pan"; from: Point; before: Zoomed };

/** What of it is a reading. */
export type Settled = Exclude<Hold, { what: "pan" } | { what: "turn" }>;

export const isReading = (hold: Hold | undefined): hold is Settled =>
  hold !== undefined && hold.what !== "pan" && hold.what !== "turn";

/** The keys are the stage's, and through it the bench's. */
export const focusStage = () =>
  document.querySelector<HTMLElement>("[aria-label=Stage]")?.focus({ preventScroll: true });

export const newId = (): string => crypto.randomUUID().slice(0, 8);
