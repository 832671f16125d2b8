/* How a kind of reading looks, in the field book and on the picture: by shape as well as by colour. */
import { chakra } from "@chakra-ui/react";
import type { Kind } from "../api/client";
import { SvgBox } from "../shared/SvgBox";
import { between, type Point } from "./geometry";

export const KIND_NAMES: Record<Kind, string> = { level: "Level", plumb: "Plumb" };

/** The small sign of a kind. */
export function KindSign({ kind }: { kind: Kind }) {
  return (
    <SvgBox viewBox="0 0 16 12" width="16px" height="12px" display="inline-block" color={kind} aria-hidden>
      {kind === "level" ? (
        <>
          <rect x=".8" y="2.5" width="14.4" height="7" rx="3.5" fill="none" stroke="currentColor" strokeWidth="1.4" />
          <circle cx="8" cy="6" r="1.8" fill="currentColor" />
        </>
      ) : (
        <>
          <path d="M8 0v6" stroke="currentColor" strokeWidth="1.4" />
          <path d="M4.6 5h6.8L8 12z" fill="currentColor" />
        </>
      )}
    </SvgBox>
  );
}

const Line = chakra("g");

/** A reading on the picture, in stage pixels: a line with a vial at its middle, or with a bob at its lower end. */
export function ReadingLine({ kind, ends, lit }: { kind: Kind; ends: [Point, Point]; lit: boolean }) {
  const [a, b] = ends;
  const angle = (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI;
  const [mx, my] = between(a, b, 0.5);
  const low = a[1] > b[1] ? a : b;
  const high = a[1] > b[1] ? b : a;
  const hang = (Math.atan2(low[1] - high[1], low[0] - high[0]) * 180) / Math.PI - 90;
  return (
    <Line color={`${kind}OnPicture`} pointerEvents="none">
      <path d={`M${a.join(",")}L${b.join(",")}`} stroke="#000" strokeOpacity=".35" strokeWidth={lit ? 6 : 4} />
      <path d={`M${a.join(",")}L${b.join(",")}`} stroke="currentColor" strokeWidth={lit ? 3.2 : 2} />
      {kind === "level" ? (
        <g transform={`translate(${mx} ${my}) rotate(${angle})`}>
          <rect x="-17" y="-7.5" width="34" height="15" rx="7.5" fill="#fbf3c9" stroke="#8a5a0a" />
          <path d="M-6-7.5v15M6-7.5v15" stroke="#8a5a0a" />
          <ellipse rx="4.6" ry="4" fill="#d3df98" stroke="#7f8d3c" />
        </g>
      ) : (
        <path d="M-6.5-4h13L0 11z" fill="currentColor" stroke="#3d2466" transform={`translate(${low.join(" ")}) rotate(${hang})`} />
      )}
    </Line>
  );
}
