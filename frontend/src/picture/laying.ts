/* Where the server lays the undistorted picture: by a homography and, where the picture bends, by
   the grid that comes with it, with straight lines between its places. What bends and how far is
   the server's alone. */
import type { Solution } from "../api/client";
import { clamp, fromRows, inverse, mapped, type Point } from "./geometry";

export type Grid = NonNullable<Solution["bend"]>["grid"];
/** A derivative, in row order. */
export type Linear = [number, number, number, number];
type Laid = Pick<Solution, "bend" | "homography">;

const placeOf = ({ columns, places }: Grid, row: number, column: number): Point => {
  const k = 2 * (row * columns + column);
  return [places[k] as number, places[k + 1] as number];
};

/** Where a point of the turned picture comes to lie. */
function onGrid(grid: Grid, [x, y]: Point): Point {
  const across = clamp((x - grid.left) / grid.step, 0, grid.columns - 1);
  const down = clamp((y - grid.top) / grid.step, 0, grid.rows - 1);
  const i = Math.min(Math.floor(across), grid.columns - 2);
  const j = Math.min(Math.floor(down), grid.rows - 2);
  const [s, t] = [across - i, down - j];
  const [a, b] = [placeOf(grid, j, i), placeOf(grid, j, i + 1)];
  const [c, d] = [placeOf(grid, j + 1, i), placeOf(grid, j + 1, i + 1)];
  const mixed = (axis: 0 | 1) =>
    (a[axis] * (1 - s) + b[axis] * s) * (1 - t) + (c[axis] * (1 - s) + d[axis] * s) * t;
  return [mixed(0), mixed(1)];
}

/** What takes points of the undistorted picture to the uncropped corrected one. */
export function laying({ bend, homography }: Laid): (point: Point) => Point {
  const turn = fromRows(homography);
  if (!bend) return (point) => mapped(turn, point);
  return (point) => onGrid(bend.grid, mapped(turn, point));
}

/** A point of the undistorted picture that lies near a point of the corrected one. */
export function nearby({ bend, homography }: Laid, to: Point): Point {
  const back = inverse(fromRows(homography));
  if (!bend) return mapped(back, to);
  const { grid } = bend;
  let [least, at] = [Infinity, [grid.left, grid.top] as Point];
  for (let row = 0; row < grid.rows; row += 1)
    for (let column = 0; column < grid.columns; column += 1) {
      const [x, y] = placeOf(grid, row, column);
      const off = (x - to[0]) ** 2 + (y - to[1]) ** 2;
      if (off >= least) continue;
      least = off;
      at = [grid.left + column * grid.step, grid.top + row * grid.step];
    }
  return mapped(back, at);
}

/** The corners of the cells of the mesh as they come out, and by how much each cell grows. */
export function cellsOf(grid: Grid): { vertices: Point[][]; growth: number[][] } {
  const every = (count: number) =>
    Array.from({ length: (count - 1) / grid.coarse + 1 }, (_, n) => n * grid.coarse);
  const [rows, columns] = [every(grid.rows), every(grid.columns)];
  const across = columns.length - 1;
  return {
    vertices: rows.map((row) => columns.map((column) => placeOf(grid, row, column))),
    growth: rows.slice(1).map((_, row) => [...grid.growth.slice(row * across, (row + 1) * across)]),
  };
}
