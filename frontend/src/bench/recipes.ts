/* Small changes to a recipe, each giving a new one. */
import type { Kind, Reading, Recipe } from "../api/client";
import { clamp, type Point } from "./geometry";

export function newReading(kind: Kind, points: [Point, Point], zoom: number): Reading {
  // Each end is placed to about one screen pixel.
  return { id: crypto.randomUUID().slice(0, 8), kind, points, sigma_px: clamp(1 / zoom, 0.02, 1000), weight: 1, name: "", fitted: null };
}

export const withReading = (recipe: Recipe, reading: Reading): Recipe => ({ ...recipe, readings: [...recipe.readings, reading] });

export const withChanged = (recipe: Recipe, changed: Reading): Recipe => ({
  ...recipe,
  readings: recipe.readings.map((reading) => (reading.id === changed.id ? changed : reading)),
});

/** A fitted reading as it was drawn by hand. */
export const asDrawn = (reading: Reading): Reading => (reading.fitted ? { ...reading, points: reading.fitted.drawn, fitted: null } : reading);

export const withoutReading = (recipe: Recipe, id: string): Recipe => ({ ...recipe, readings: recipe.readings.filter((r) => r.id !== id) });

export function withEnd(recipe: Recipe, id: string, end: 0 | 1, point: Point, sigmaPx: number): Recipe {
  const moved = (reading: Reading): Reading => {
    const points: Reading["points"] = end === 0 ? [point, reading.points[1]] : [reading.points[0], point];
    return { ...reading, points, sigma_px: sigmaPx, fitted: null };
  };
  return { ...recipe, readings: recipe.readings.map((reading) => (reading.id === id ? moved(reading) : reading)) };
}

export const withTrim = (recipe: Recipe, rollDeg: number): Recipe => ({
  ...recipe,
  trim: { ...recipe.trim, roll_deg: Math.round(clamp(rollDeg, -360, 360) * 1e6) / 1e6 },
});

export const withRatio = (recipe: Recipe, ratio: string): Recipe => ({ ...recipe, frame: { ...recipe.frame, ratio } });
