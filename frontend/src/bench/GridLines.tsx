/* A grid that belongs to the stage: it stands still while the picture turns, so that the picture can be judged by it. */
export type Grid = "off" | "coarse" | "fine";
export const GRID_NAMES: Record<Grid, string> = { off: "off", coarse: "coarse", fine: "fine" };
export const nextGrid = (grid: Grid): Grid => (grid === "off" ? "coarse" : grid === "coarse" ? "fine" : "off");

const STEP_PX: Record<Exclude<Grid, "off">, number> = { coarse: 80, fine: 20 };

export function GridLines({ grid, width, height }: { grid: Grid; width: number; height: number }) {
  if (grid === "off" || !width) return null;
  const step = STEP_PX[grid];
  const lines = (extent: number) => {
    const first = (extent / 2) % step;
    return Array.from({ length: Math.floor((extent - first) / step) + 1 }, (_, i) => first + i * step);
  };
  const d = [...lines(width).map((x) => `M${x},0V${height}`), ...lines(height).map((y) => `M0,${y}H${width}`)].join("");
  return (
    <g pointerEvents="none" data-grid={grid}>
      <path d={d} stroke="#000" strokeOpacity={grid === "fine" ? 0.12 : 0.22} />
      <path d={d} stroke="#fff" strokeOpacity={grid === "fine" ? 0.22 : 0.4} transform="translate(.5 .5)" />
    </g>
  );
}
