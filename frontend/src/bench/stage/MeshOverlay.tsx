/* How the picture bends, laid over it: the mesh, or by how much each part grows or shrinks. */
import { Flex, Text } from "@chakra-ui/react";
import { decimal, t } from "../../shared/words";
import { useOptions } from "../../api/options";
import { cellsOf, type Grid } from "../../picture/laying";
import { line, mapped, polygon, type Matrix, type Point } from "../../picture/geometry";

export type Overlay = "off" | "mesh" | "stretch";
export const OVERLAY_NAMES: Record<Overlay, string> = {
  off: t("off"),
  mesh: t("mesh"),
  stretch: t("stretch"),
};
const ORDER: Overlay[] = ["off", "mesh", "stretch"];
export const nextOverlay = (now: Overlay): Overlay =>
  ORDER[(ORDER.indexOf(now) + 1) % ORDER.length] ?? "off";

const GROWN = "#d8642a";
const SHRUNK = "#2f6fb0";
const STRONGEST = 0.72;

interface Props {
  grid: Grid;
  plane: Matrix;
  outline: readonly Point[];
  overlay: Overlay;
}

export function MeshOverlay({ grid, plane, outline, overlay }: Props) {
  const { stretch_shown: range } = useOptions();
  if (overlay === "off") return null;
  const { vertices, growth } = cellsOf(grid);
  const placed = vertices.map((row) => row.map((point) => mapped(plane, point)));
  const columns = placed[0]?.map((_, column) => placed.map((row) => row[column] as Point)) ?? [];
  return (
    <g pointerEvents="none" data-overlay={overlay} clipPath="url(#picture-outline)">
      <clipPath id="picture-outline">
        <path d={polygon(outline.map((point) => mapped(plane, point)))} />
      </clipPath>
      {overlay === "mesh" &&
        [...placed, ...columns].map((points, index) => (
          <g key={index}>
            <path d={line(points)} stroke="#000" strokeOpacity=".3" strokeWidth="2.2" />
            <path d={line(points)} stroke="#fffdf8" strokeOpacity=".75" strokeWidth=".8" />
          </g>
        ))}
      {overlay === "stretch" &&
        growth.map((row, j) =>
          row.map((grown, i) => {
            const quad = [
              placed[j]?.[i],
              placed[j]?.[i + 1],
              placed[j + 1]?.[i + 1],
              placed[j + 1]?.[i],
            ] as Point[];
            const share = Math.min(1, Math.abs(Math.log(grown)) / Math.log(range.high));
            return (
              <path
                key={`${j} ${i}`}
                d={polygon(quad)}
                fill={grown > 1 ? GROWN : SHRUNK}
                fillOpacity={share * STRONGEST}
              />
            );
          }),
        )}
    </g>
  );
}

/** What the two colours stand for. */
export function StretchLegend() {
  const { stretch_shown: range } = useOptions();
  return (
    <Flex
      position="absolute"
      right="12px"
      bottom="14px"
      zIndex="1"
      align="center"
      gap="8px"
      bg="inkOnPicture/85"
      color="onPicture"
      px="12px"
      py="6px"
      borderRadius="4px"
      fontFamily="mono"
      fontSize="12px"
      pointerEvents="none"
      role="img"
      aria-label={t("Areas shrink in blue and grow in orange")}
    >
      <Text>{t("area {low}", { low: decimal(range.low, 2) })}</Text>
      <svg width="120" height="10" aria-hidden>
        <defs>
          <linearGradient id="growth">
            <stop offset="0" stopColor={SHRUNK} />
            <stop offset=".5" stopColor="#fffdf8" />
            <stop offset="1" stopColor={GROWN} />
          </linearGradient>
        </defs>
        <rect width="120" height="10" rx="2" fill="url(#growth)" />
      </svg>
      <Text>{decimal(range.high, 2)}</Text>
    </Flex>
  );
}
