/* Laying the picture by what the server sends, with grids of which the answer is known. */
import { expect, test } from "vitest";
import type { Solution } from "../api/client";
import type { Point } from "./geometry";
import { cellsOf, laying, nearby } from "./laying";

const IDENTITY: Solution["homography"] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
const SHIFT: Solution["homography"] = [
  [1, 0, 7],
  [0, 1, -3],
  [0, 0, 1],
];

/** A grid of 7 by 4 places, 10 apart from (-5, 0), that a map lays somewhere. */
function bentBy(map: (point: Point) => Point, homography = IDENTITY) {
  const places = [0, 1, 2, 3].flatMap((row) =>
    [0, 1, 2, 3, 4, 5, 6].flatMap((column) => map([-5 + 10 * column, 10 * row])),
  );
  const grid = {
    left: -5,
    top: 0,
    step: 10,
    rows: 4,
    columns: 7,
    places,
    coarse: 3,
    growth: [1, 2],
  };
  return { homography, bend: { grid } } as unknown as Pick<Solution, "bend" | "homography">;
}

test("without bending the homography alone lays the picture", () => {
  expect(laying({ homography: SHIFT, bend: null })([1, 2])).toEqual([8, -1]);
});

test("between the places of the grid it goes on in straight lines, exactly where the map does", () => {
  const bilinear = ([x, y]: Point): Point => [2 * x + 0.01 * x * y + 3, y - 0.5 * x];
  const lay = laying(bentBy(bilinear));
  for (const point of [
    [0, 0],
    [-5, 30],
    [54.9, 29.9],
    [12.5, 17.25],
  ] as Point[]) {
    const [x, y] = lay(point);
    const [u, v] = bilinear(point);
    expect(x).toBeCloseTo(u, 9);
    expect(y).toBeCloseTo(v, 9);
  }
});

test("the turn comes before the grid", () => {
  const lay = laying(bentBy(([x, y]) => [x * 2, y], SHIFT));
  expect(lay([1, 8])).toEqual([16, 5]);
});

test("beyond the grid a point stays at its border", () => {
  expect(laying(bentBy((point) => point))([900, -50])).toEqual([55, 0]);
});

test("near a point of the corrected picture lies the nearest place of the grid", () => {
  const doubled = bentBy(([x, y]) => [x * 2, y * 2], SHIFT);
  expect(nearby(doubled, [31, 19])).toEqual([15 - 7, 10 + 3]);
  expect(nearby({ homography: SHIFT, bend: null }, [8, -1])).toEqual([1, 2]);
});

test("the cells of the mesh are every third line, with their growth row by row", () => {
  const { bend } = bentBy((point) => point);
  const { vertices, growth } = cellsOf((bend as NonNullable<typeof bend>).grid);
  expect(vertices).toEqual([
    [
      [-5, 0],
      [25, 0],
      [55, 0],
    ],
    [
      [-5, 30],
      [25, 30],
      [55, 30],
    ],
  ]);
  expect(growth).toEqual([[1, 2]]);
});
