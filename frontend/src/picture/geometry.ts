/* Plane geometry for drawing: 3x3 matrices in row order. The rules of the job are in the server;
   this only puts them on screen. */
export type Point = [number, number];
export type Matrix = [number, number, number, number, number, number, number, number, number];

export const fromRows = (rows: readonly (readonly number[])[]): Matrix => rows.flat() as Matrix;
export const translation = (x: number, y: number): Matrix => [1, 0, x, 0, 1, y, 0, 0, 1];
export const scaling = (s: number, t = s): Matrix => [s, 0, 0, 0, t, 0, 0, 0, 1];

export function product(...matrices: Matrix[]): Matrix {
  return matrices.reduce((m, n) => {
    const out: number[] = [];
    for (let row = 0; row < 9; row += 3)
      for (let column = 0; column < 3; column += 1)
        out.push(
          (m[row] as number) * (n[column] as number) +
            (m[row + 1] as number) * (n[column + 3] as number) +
            (m[row + 2] as number) * (n[column + 6] as number),
        );
    return out as Matrix;
  });
}

export function inverse([a, b, c, d, e, f, g, h, i]: Matrix): Matrix {
  const A = e * i - f * h;
  const B = f * g - d * i;
  const C = d * h - e * g;
  const k = 1 / (a * A + b * B + c * C);
  return [
    A * k,
    (c * h - b * i) * k,
    (b * f - c * e) * k,
    B * k,
    (a * i - c * g) * k,
    (c * d - a * f) * k,
    C * k,
    (b * g - a * h) * k,
    (a * e - b * d) * k,
  ];
}

export function mapped([a, b, c, d, e, f, g, h, i]: Matrix, [x, y]: Point): Point {
  const w = g * x + h * y + i;
  return [(a * x + b * y + c) / w, (d * x + e * y + f) / w];
}

/** The CSS transform that lays an element on the stage by a matrix. */
export function css([a, b, c, d, e, f, g, h, i]: Matrix): string {
  return `matrix3d(${[a, d, 0, g, b, e, 0, h, 0, 0, 1, 0, c, f, 0, i].join(",")})`;
}

export const distance = (a: Point, b: Point): number => Math.hypot(a[0] - b[0], a[1] - b[1]);
export const between = (a: Point, b: Point, share: number): Point => [
  a[0] + (b[0] - a[0]) * share,
  a[1] + (b[1] - a[1]) * share,
];
export const clamp = (value: number, low: number, high: number): number =>
  Math.min(high, Math.max(low, value));
export const boxPoints = (x: number, y: number, width: number, height: number): Point[] => [
  [x, y],
  [x + width, y],
  [x + width, y + height],
  [x, y + height],
];
export const line = (points: Point[]): string => `M${points.map((p) => p.join(",")).join("L")}`;
export const polygon = (points: Point[]): string => `${line(points)}Z`;
