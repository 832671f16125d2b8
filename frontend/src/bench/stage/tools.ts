/* What can be in the hand on the stage. */
import type { Kind } from "../../api/client";
import type { Point } from "../../picture/geometry";
import type { Zoomed } from "./useView";

export type Tool = Kind | "rectangle";

/** What is in the hand; points are in pixels of the picture that is seen. */
export type Hold =
  | { what: "draw"; id: string; kind: Kind; points: [Point, Point] }
  | { what: "end"; id: string; end: number; at: Point }
  | { what: "pan"; from: Point; before: Zoomed };

export type Settled = Exclude<Hold, { what: "pan" }>;

export const newId = (): string => crypto.randomUUID().slice(0, 8);
