/* A figure over the last hour, small: how it moved. What it was, the words beside it say. */
import { Box } from "@chakra-ui/react";

interface Props {
  /** From the oldest to the newest; null where nothing was measured. */
  series: (number | null)[];
}
const WIDTH = 180;
const HEIGHT = 36;
const EDGE = 2;

export function Spark({ series }: Props) {
  const top = Math.max(...series.map((one) => one ?? 0), Number.MIN_VALUE);
  const step = (WIDTH - 2 * EDGE) / Math.max(series.length - 1, 1);
  const points = series.flatMap((one, place) =>
    one === null
      ? []
      : [`${EDGE + place * step},${HEIGHT - EDGE - (one / top) * (HEIGHT - 2 * EDGE)}`],
  );
  return (
    <Box
      width={`${WIDTH}px`}
      height={`${HEIGHT}px`}
      flexShrink="0"
      aria-hidden
      color="inkSoft"
      borderBottom={points.length > 1 ? "1px solid" : undefined}
      borderColor="rule"
    >
      {points.length > 1 && (
        <svg width={WIDTH} height={HEIGHT} viewBox={`0 0 ${WIDTH} ${HEIGHT}`}>
          <polyline points={points.join(" ")} fill="none" stroke="currentColor" strokeWidth="1.5" />
        </svg>
      )}
    </Box>
  );
}
