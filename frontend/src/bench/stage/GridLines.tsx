/* A grid that belongs to the stage: it stands still while the picture turns, so that the picture
   can be judged by it. */
import { memo } from "react";
import { t } from "../../shared/words";
import { SvgBox } from "../../shared/SvgBox";

export type Grid = "off" | "coarse" | "fine";
export const GRID_NAMES: Record<Grid, string> = {
  off: t("off"),
  coarse: t("coarse"),
  fine: t("fine"),
};
export const nextGrid = (grid: Grid): Grid =>
  grid === "off" ? "coarse" : grid === "coarse" ? "fine" : "off";

/** Steps as shares of the stage's width: the fine one about 1 %, with every fifth line stronger. */
const STEP_SHARE: Record<Exclude<Grid, "off">, number> = { coarse: 1 / 12, fine: 1 / 100 };

interface Props {
  grid: Grid;
  /** While the picture is turned by hand a fine grid comes, and fades afterwards. */
  turning: boolean;
  width: number;
  height: number;
}

export function GridLines({ grid, turning, width, height }: Props) {
  if (!width) return null;
  const shown = grid === "off" ? "fine" : grid;
  const seen = grid !== "off" || turning;
  return (
    <SvgBox
      position="absolute"
      inset="0"
      width="100%"
      height="100%"
      fill="none"
      pointerEvents="none"
      data-grid={seen ? shown : undefined}
      // A layer of its own is drawn once, however often what lies over the picture changes.
      willChange="opacity"
      style={{ opacity: seen ? 1 : 0, transition: seen ? undefined : "opacity 400ms" }}
    >
      <Lines grid={shown} width={width} height={height} />
    </SvgBox>
  );
}

const Lines = memo(function Lines({
  grid,
  width,
  height,
}: {
  grid: Exclude<Grid, "off">;
  width: number;
  height: number;
}) {
  const step = width * STEP_SHARE[grid];
  const lines = (extent: number, apart: number) => {
    const first = (extent / 2) % apart;
    return Array.from(
      { length: Math.floor((extent - first) / apart) + 1 },
      (_, i) => first + i * apart,
    );
  };
  const path = (s: number) =>
    [
      ...lines(width, s).map((x) => `M${x},0V${height}`),
      ...lines(height, s).map((y) => `M0,${y}H${width}`),
    ].join("");
  const fine = grid === "fine";
  return (
    <>
      <path d={path(step)} stroke="#000" strokeOpacity={fine ? 0.1 : 0.22} />
      <path
        d={path(step)}
        stroke="#fff"
        strokeOpacity={fine ? 0.16 : 0.4}
        transform="translate(.5 .5)"
      />
      {fine && (
        <path d={path(step * 5)} stroke="#fff" strokeOpacity="0.42" transform="translate(.5 .5)" />
      )}
    </>
  );
});
