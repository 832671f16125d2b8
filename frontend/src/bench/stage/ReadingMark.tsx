/* How a kind of reading looks, in the field book and on the picture: by shape as well as by colour.
 */
import { chakra } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Kind } from "../../api/client";
import { SvgBox } from "../../shared/SvgBox";
import { between, line, type Point } from "../../picture/geometry";

export const KIND_NAMES: Record<Kind, string> = {
  level: t("Level"),
  plumb: t("Plumb"),
  horizon: t("Horizon"),
  check: t("Check (line)", { defaultValue: "Check" }),
  trace: t("Trace"),
  set_out: t("Set-out"),
};

/** The small sign of a kind, or of the tool that places a rectangle. */
export function KindSign({ kind }: { kind: Kind | "rectangle" | "straight" }) {
  return (
    <SvgBox
      viewBox="0 0 16 12"
      width="16px"
      height="12px"
      display="inline-block"
      flexShrink={0}
      color={kind === "rectangle" || kind === "straight" ? "ink" : kind}
      aria-hidden
    >
      {kind === "level" && (
        <>
          <rect
            x=".8"
            y="2.5"
            width="14.4"
            height="7"
            rx="3.5"
            fill="none"
            stroke="currentColor"
            strokeWidth="1.4"
          />
          <circle cx="8" cy="6" r="1.8" fill="currentColor" />
        </>
      )}
      {kind === "plumb" && (
        <>
          <path d="M8 0v6" stroke="currentColor" strokeWidth="1.4" />
          <path d="M4.6 5h6.8L8 12z" fill="currentColor" />
        </>
      )}
      {kind === "horizon" && (
        <>
          <path d="M0 9.5h16" stroke="currentColor" strokeWidth="1.6" />
          <path d="M4.2 9.5a3.8 3.8 0 0 1 7.6 0z" fill="currentColor" />
        </>
      )}
      {kind === "check" && (
        <path d="M.5 10.5l15-9" stroke="currentColor" strokeWidth="1.8" strokeDasharray="3.6 2.4" />
      )}
      {kind === "trace" && (
        <path
          d="M.6 9.5Q8 1.5 15.4 9.5M3.2 8.8l-1-2M8 6.6V4.2M12.8 8.8l1-2"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.4"
        />
      )}
      {kind === "set_out" && (
        <path
          d="M2 9.5L14 3.5M2 12V6.5M14 6V.5M.4 6.5h3.2M12.4.5h3.2"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.4"
        />
      )}
      {kind === "straight" && (
        <path
          d="M.6 10.4h15M4 .4v7.6M12.6 7.6v5.6"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.5"
        />
      )}
      {kind === "rectangle" && (
        <path
          d="M2.5 1.5l11-.8v10.6l-11-.8z"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.3"
          strokeLinejoin="round"
        />
      )}
    </SvgBox>
  );
}

const Line = chakra("g");

/**
 * A reading on the picture, in stage pixels: a line with a vial at its middle, with a bob at its
 * lower end, or dashed.
 */
export function ReadingLine({
  kind,
  points,
  lit,
  off,
}: {
  kind: Kind;
  points: Point[];
  lit: boolean;
  off: boolean;
}) {
  const a = points[0] as Point;
  const b = points.at(-1) as Point;
  const angle = (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI;
  const [mx, my] = between(a, b, 0.5);
  const low = a[1] > b[1] ? a : b;
  const high = a[1] > b[1] ? b : a;
  const hang = (Math.atan2(low[1] - high[1], low[0] - high[0]) * 180) / Math.PI - 90;
  const path = line(points);
  const across = (angle + 90) * (Math.PI / 180);
  const ticks =
    kind === "trace"
      ? points
          .map(
            ([x, y]) =>
              `M${x - 5 * Math.cos(across)},${y - 5 * Math.sin(across)}l${10 * Math.cos(across)},${10 * Math.sin(across)}`,
          )
          .join("")
      : "";
  return (
    <Line color={`${kind}OnPicture`} pointerEvents="none" opacity={off ? 0.45 : 1}>
      <path d={path} stroke="#000" strokeOpacity=".35" strokeWidth={lit ? 6 : 4} />
      <path
        d={path}
        stroke="currentColor"
        strokeWidth={lit ? 3.2 : 2}
        strokeDasharray={kind === "check" ? "9 6" : undefined}
      />
      {ticks && <path d={ticks} stroke="currentColor" strokeWidth="1.4" />}
      {kind === "set_out" &&
        [a, b].map(([x, y], end) => (
          <g key={end} transform={`translate(${x} ${y}) rotate(${angle})`}>
            <path d="M0-11V11M-5-11H5" stroke="#000" strokeOpacity=".4" strokeWidth="4" />
            <path d="M0-11V11M-5-11H5" stroke="currentColor" strokeWidth="2" />
          </g>
        ))}
      {kind === "level" && (
        <g transform={`translate(${mx} ${my}) rotate(${angle})`}>
          <rect x="-17" y="-7.5" width="34" height="15" rx="7.5" fill="#fbf3c9" stroke="#8a5a0a" />
          <path d="M-6-7.5v15M6-7.5v15" stroke="#8a5a0a" />
          <ellipse rx="4.6" ry="4" fill="#d3df98" stroke="#7f8d3c" />
        </g>
      )}
      {kind === "horizon" && (
        <path
          d="M-11 0a11 11 0 0 1 22 0z"
          fill="currentColor"
          stroke="#7a2f4c"
          transform={`translate(${mx} ${my}) rotate(${angle})`}
        />
      )}
      {kind === "plumb" && (
        <path
          d="M-5-3.4h10L0 8z"
          fill="#f4eefc"
          stroke="#3d2466"
          transform={`translate(${mx} ${my}) rotate(${hang})`}
        />
      )}
      {kind === "plumb" && (
        <path
          d="M-6.5-4h13L0 11z"
          fill="currentColor"
          stroke="#3d2466"
          transform={`translate(${low.join(" ")}) rotate(${hang})`}
        />
      )}
    </Line>
  );
}
