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
  /** A point of a trace, or a corner, that is placed where it is let go. */
  | { what: "click"; at: Point }
  /** The picture about the middle of its frame, on the stage. */
  | { what: "turn"; about: Point; from: number }
  | { what: "pan"; from: Point; before: Zoomed };

/** What of it is a reading. */
export type Settled = Extract<Hold, { id: string }>;

export const isReading = (hold: Hold | undefined): hold is Settled =>
  hold !== undefined && "id" in hold;

/** So near to what it takes a finger may be, in pixels (WCAG 2.2, 2.5.5: 44 across). */
export const REACH_PX = 22;

/** The keys are the stage's, and through it the bench's. */
export const focusStage = () =>
  document.querySelector<HTMLElement>("[data-stage]")?.focus({ preventScroll: true });

export const newId = (): string => crypto.randomUUID().slice(0, 8);
