/* The loupe: the source's own pixels around the end in the hand, beside it and never under the
   hand. */
import { Box, chakra } from "@chakra-ui/react";
import { decimal, t } from "../../shared/words";
import { besideOf, SIZE_PX } from "./loupePlace";
import { SvgBox } from "../../shared/SvgBox";
import { inverse, mapped, type Matrix, type Point } from "../../picture/geometry";

const Tile = chakra("img");
const TILE_PX = 256;
export const POWERS = [2, 4, 8, 16];

interface Props {
  /** Where the tiles of the original are. */
  tiles: string;
  file: { width: number; height: number };
  /** Where the end is, in source pixels. */
  point: Point;
  /** Where it is on the stage. */
  at: Point;
  /** How the picture is turned there; the loupe shows it as the stage does. */
  turned: readonly [number, number, number, number];
  size: { width: number; height: number };
  power: number;
}

export function Loupe({ tiles, file, point, at: [x, y], turned, size, power }: Props) {
  const [left, top] = besideOf([x, y], size);
  const [a, b, c, d] = turned;
  const scale = power / Math.sqrt(Math.abs(a * d - b * c));
  const turn: Matrix = [a * scale, b * scale, 0, c * scale, d * scale, 0, 0, 0, 1];

  const back = inverse(turn);
  const reach = [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([sx, sy]) =>
    mapped(back, [((sx as number) * SIZE_PX) / 2, ((sy as number) * SIZE_PX) / 2]),
  );
  const range = (axis: 0 | 1, extent: number) => {
    const places = reach.map((p) => p[axis] + point[axis]);
    const first = Math.max(0, Math.floor(Math.min(...places) / TILE_PX));
    const last = Math.min(
      Math.ceil(extent / TILE_PX) - 1,
      Math.floor(Math.max(...places) / TILE_PX),
    );
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => first + i);
  };
  return (
    <Box
      role="img"
      aria-label={t("Loupe, {power} times, at {point}, {point2}", {
        power,
        point: decimal(point[0], 1),
        point2: decimal(point[1], 1),
      })}
      position="absolute"
      left={`${left}px`}
      top={`${top}px`}
      width={`${SIZE_PX}px`}
      height={`${SIZE_PX}px`}
      borderRadius="full"
      overflow="hidden"
      bg="stage"
      borderWidth="3px"
      borderColor="onPicture"
      boxShadow="0 1px 8px rgba(0,0,0,.45)"
      pointerEvents="none"
    >
      {range(1, file.height).map((row) =>
        range(0, file.width).map((column) => {
          const [tx, ty] = mapped(turn, [column * TILE_PX - point[0], row * TILE_PX - point[1]]);
          const middle = SIZE_PX / 2 - 3;
          return (
            <Tile
              key={`${column} ${row}`}
              src={`${tiles}/${column}/${row}.png`}
              alt=""
              position="absolute"
              left="0"
              top="0"
              maxWidth="none"
              transformOrigin="0 0"
              imageRendering="pixelated"
              style={{
                transform: `matrix(${turn[0]},${turn[3]},${turn[1]},${turn[4]},${tx + middle},${ty + middle})`,
              }}
            />
          );
        }),
      )}
      <SvgBox
        position="absolute"
        inset="0"
        width="100%"
        height="100%"
        viewBox="0 0 162 162"
        fill="none"
      >
        <path
          d="M81,0V72M81,90V162M0,81H72M90,81H162"
          stroke="#000"
          strokeOpacity=".55"
          strokeWidth="2.4"
        />
        <path d="M81,0V72M81,90V162M0,81H72M90,81H162" stroke="#fff" strokeWidth="1" />
        <circle cx="81" cy="81" r="1" fill="#d0452a" />
        <text
          x="81"
          y="150"
          textAnchor="middle"
          fontSize="11"
          fontFamily="IBM Plex Mono, monospace"
          fill="#fff"
          stroke="#000"
          strokeWidth="2.5"
          paintOrder="stroke"
        >
          {power}×
        </text>
      </SvgBox>
    </Box>
  );
}
