/* Where the loupe lies on the stage. */
import type { Point } from "../../picture/geometry";

export const SIZE_PX = 168;
const AWAY_PX = 40;
const BORDER_PX = 8;

interface Stage {
  width: number;
  height: number;
}

/** Beside a place, above it where there is room, never over it and within the stage. */
export function besideOf([x, y]: Point, { width, height }: Stage): Point {
  const within = (at: number, extent: number) =>
    Math.min(Math.max(at, BORDER_PX), Math.max(extent - SIZE_PX - BORDER_PX, 0));
  const above = y - SIZE_PX - AWAY_PX;
  const [right, left] = [x + AWAY_PX, x - AWAY_PX - SIZE_PX];
  if (right + SIZE_PX < width) return [right, within(above, height)];
  if (left > 0) return [left, within(above, height)];
  if (above > 0) return [within(x, width), above];
  if (y + AWAY_PX + SIZE_PX < height) return [within(x, width), y + AWAY_PX];
  // Nowhere beside it: the corner farthest from it.
  return [x < width / 2 ? within(width, width) : 0, y < height / 2 ? within(height, height) : 0];
}
