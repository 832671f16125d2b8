/* Small changes to a recipe, each giving a new one. */
import type { Axis, Kind, Reading, Recipe } from "../api/client";
import { clamp, type Point } from "./geometry";

const LIMIT_DEG: Record<Axis, number> = { roll: 360, lean: 80, swing: 80 };
const HOLD_LIMIT_DEG: Record<Axis, number> = { roll: 180, lean: 80, swing: 80 };

/** Each end is placed to about one screen pixel. */
export const sigmaAt = (zoom: number): number => clamp(1 / zoom, 0.02, 1000);
export const newId = (): string => crypto.randomUUID().slice(0, 8);

export function newReading(kind: Kind, points: Point[], zoom: number): Reading {
  return { id: newId(), kind, points, sigma_px: sigmaAt(zoom), weight: 1, name: "", fitted: null, active: true, hidden: false, group: null, serves_as: null };
}

export const withReadings = (recipe: Recipe, ...readings: Reading[]): Recipe => ({ ...recipe, readings: [...recipe.readings, ...readings] });

export const withChanged = (recipe: Recipe, ...changed: Reading[]): Recipe => ({
  ...recipe,
  readings: recipe.readings.map((reading) => changed.find((other) => other.id === reading.id) ?? reading),
});

/** A fitted reading as it was drawn by hand. */
export const asDrawn = (reading: Reading): Reading => (reading.fitted ? { ...reading, points: reading.fitted.drawn, fitted: null } : reading);

export const withoutReading = (recipe: Recipe, id: string): Recipe => ({ ...recipe, readings: recipe.readings.filter((r) => r.id !== id) });

/** The reading and those that are linked with it as sides of one rectangle. */
export const linkedWith = (recipe: Recipe, reading: Reading): Reading[] =>
  reading.group ? recipe.readings.filter((other) => other.group === reading.group) : [reading];

/** The points that can be taken in hand: of a trace that follows an edge those that were clicked. */
export const handPoints = (reading: Reading): Point[] => (reading.kind === "trace" && reading.fitted ? reading.fitted.drawn : reading.points);

/** A point moved, together with the end of the neighbouring side that is the same corner. */
export function withPoint(recipe: Recipe, id: string, place: number, point: Point, sigmaPx: number): Recipe {
  const moved = recipe.readings.find((reading) => reading.id === id);
  const before = moved && handPoints(moved)[place];
  if (!moved || !before) return recipe;
  const same = (p: Point) => Math.abs(p[0] - before[0]) < 1e-6 && Math.abs(p[1] - before[1]) < 1e-6;
  const changed = linkedWith(recipe, moved).flatMap((reading) => {
    const points = handPoints(reading);
    const at = points.map((p, i) => (reading.id === id ? i === place : same(p)));
    return at.some(Boolean) ? [{ ...reading, points: points.map((p, i) => (at[i] ? point : p)), sigma_px: sigmaPx, fitted: null }] : [];
  });
  return withChanged(recipe, ...changed);
}

export const withTrim = (recipe: Recipe, axis: Axis, deg: number): Recipe => ({
  ...recipe,
  trim: { ...recipe.trim, [`${axis}_deg`]: Math.round(clamp(deg, -LIMIT_DEG[axis], LIMIT_DEG[axis]) * 1e6) / 1e6 },
});

export const trimOf = (recipe: Recipe, axis: Axis): number => recipe.trim[`${axis}_deg`];
export const turnedBy = (recipe: Recipe, axis: Axis, deg: number): Recipe => withTrim(recipe, axis, trimOf(recipe, axis) + deg);

/** An axis held at a value, or let go; its trim goes into the value. */
export const withHold = (recipe: Recipe, axis: Axis, deg: number | null): Recipe => ({
  ...withTrim(recipe, axis, 0),
  hold: { ...recipe.hold, [`${axis}_deg`]: deg === null ? null : clamp(deg, -HOLD_LIMIT_DEG[axis], HOLD_LIMIT_DEG[axis]) },
});

export const withEase = (recipe: Recipe, part: "roll" | "perspective", share: number): Recipe => ({ ...recipe, ease: { ...recipe.ease, [part]: clamp(share, 0, 1) } });

export const withBow = (recipe: Recipe, bow: Partial<Recipe["bow"]>): Recipe => ({ ...recipe, bow: { ...recipe.bow, ...bow } });

export const withFrame = (recipe: Recipe, frame: Partial<Recipe["frame"]>): Recipe => ({ ...recipe, frame: { ...recipe.frame, ...frame } });

export const withRatio = (recipe: Recipe, ratio: string): Recipe => withFrame(recipe, { ratio, print_size: null });

export const withCorners = (recipe: Recipe, corners: Partial<Recipe["corners"]>): Recipe => ({ ...recipe, corners: { ...recipe.corners, ...corners } });
