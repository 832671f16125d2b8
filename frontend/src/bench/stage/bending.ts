/* A bending as the server solved it: a bicubic spline of displacements on a mesh. This only puts
   points where it says; what bends and how far is decided in the server. */
import type { Solution } from "../../api/client";
import { fromRows, inverse, mapped, type Point } from "./geometry";

export type Mesh = NonNullable<Solution["bend"]>["mesh"];
type Weights = [number, number, number, number];
/** A derivative, in row order. */
export type Linear = [number, number, number, number];

const STEPS = 30;
const SETTLED_PX = 1e-4;

const basis = (t: number): Weights => {
  const u = 1 - t;
  return [
    (u * u * u) / 6,
    (3 * t * t * t - 6 * t * t + 4) / 6,
    (3 * u * u * u - 6 * u * u + 4) / 6,
    (t * t * t) / 6,
  ];
};
const slopes = (t: number): Weights => {
  const u = 1 - t;
  return [(-u * u) / 2, (3 * t * t - 4 * t) / 2, (4 * u - 3 * u * u) / 2, (t * t) / 2];
};

/** Where a point of the turned picture comes to lie, and how it moves when that moves by one. */
export function bentWith(mesh: Mesh, [x, y]: Point): { at: Point; moves: Linear } {
  const cells = [mesh.columns - 3, mesh.rows - 3] as const;
  const inCells = [(x - mesh.left) / mesh.cell, (y - mesh.top) / mesh.cell] as const;
  const place = (axis: 0 | 1): [number, number] => {
    const at = Math.min(Math.max(inCells[axis], 0), cells[axis]);
    const first = Math.min(Math.floor(at), cells[axis] - 1);
    return [first, at - first];
  };
  const [i, s] = place(0);
  const [j, t] = place(1);
  const [across, along, down, below] = [basis(s), slopes(s), basis(t), slopes(t)];
  let [dx, dy] = [0, 0];
  const moves: Linear = [0, 0, 0, 0];
  for (let n = 0; n < 4; n += 1)
    for (let m = 0; m < 4; m += 1) {
      const k = 2 * ((j + n) * mesh.columns + i + m);
      const [u, v] = [mesh.shift[k] as number, mesh.shift[k + 1] as number];
      const value = (across[m] as number) * (down[n] as number);
      const ahead = ((along[m] as number) * (down[n] as number)) / mesh.cell;
      const under = ((across[m] as number) * (below[n] as number)) / mesh.cell;
      dx += value * u;
      dy += value * v;
      moves[0] += ahead * u;
      moves[1] += under * u;
      moves[2] += ahead * v;
      moves[3] += under * v;
    }
  // Beyond the mesh it goes on as at the nearest place of its border.
  const beyond = [(inCells[0] - i - s) * mesh.cell, (inCells[1] - j - t) * mesh.cell] as const;
  dx += moves[0] * beyond[0] + moves[1] * beyond[1];
  dy += moves[2] * beyond[0] + moves[3] * beyond[1];
  return { at: [x + dx, y + dy], moves: [1 + moves[0], moves[1], moves[2], 1 + moves[3]] };
}

export const bent = (mesh: Mesh | undefined, point: Point): Point =>
  mesh ? bentWith(mesh, point).at : point;

/** The point of the turned picture that comes to lie at one, by Newton's method. */
export function unbent(mesh: Mesh | undefined, to: Point): Point {
  if (!mesh) return to;
  let at = to;
  for (let step = 0; step < STEPS; step += 1) {
    const { at: now, moves } = bentWith(mesh, at);
    const [ex, ey] = [now[0] - to[0], now[1] - to[1]];
    if (Math.hypot(ex, ey) < SETTLED_PX) break;
    const [a, b, c, d] = moves;
    const area = a * d - b * c;
    at =
      area > 0.01
        ? [at[0] - (d * ex - b * ey) / area, at[1] - (a * ey - c * ex) / area]
        : [at[0] - ex, at[1] - ey];
  }
  return at;
}

export const meshOf = (shown: Pick<Solution, "bend">): Mesh | undefined => shown.bend?.mesh;

/** From the undistorted picture to the corrected one and back. */
export function corrected(shown: Pick<Solution, "bend" | "homography">) {
  const turn = fromRows(shown.homography);
  const back = inverse(turn);
  const mesh = meshOf(shown);
  return {
    to: (point: Point): Point => bent(mesh, mapped(turn, point)),
    from: (point: Point): Point => mapped(back, unbent(mesh, point)),
  };
}

/** The corners of the cells as they come out, row by row, and by how much each cell grows. */
export function cellsOf(mesh: Mesh): { corners: Point[][]; growth: number[][] } {
  const at = (row: number, column: number): Point =>
    bent(mesh, [mesh.left + column * mesh.cell, mesh.top + row * mesh.cell]);
  const count = (of: number) => Array.from({ length: of }, (_, n) => n);
  return {
    corners: count(mesh.rows - 2).map((row) =>
      count(mesh.columns - 2).map((column) => at(row, column)),
    ),
    growth: count(mesh.rows - 3).map((row) =>
      count(mesh.columns - 3).map((column) => {
        const middle: Point = [
          mesh.left + (column + 0.5) * mesh.cell,
          mesh.top + (row + 0.5) * mesh.cell,
        ];
        const [a, b, c, d] = bentWith(mesh, middle).moves;
        return a * d - b * c;
      }),
    ),
  };
}
