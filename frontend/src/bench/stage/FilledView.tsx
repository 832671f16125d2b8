/* What fills the corners, over the picture: hatched until the server has made it, roughly first,
   then as the file will have it. */
import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../../shared/words";
import { givenUp, problemAt } from "../../shared/images";
import { SvgBox } from "../../shared/SvgBox";
import { between, boxPoints, distance, mapped, polygon, type Point } from "../../picture/geometry";
import { MendedLayer } from "./MendedLayer";
import { FlawRings } from "./FlawRings";
import { StageWords } from "./StageParts";
import type { Bench } from "../useBench";
import type { View } from "./useView";

const Picture = chakra("img");
const EDGE_PX = 1280;
const OVERLAP_PX = 3;

export function FilledView({
  bench,
  view,
  size,
  seam,
}: {
  bench: Bench;
  view: View;
  size: { width: number; height: number };
  /** Whether it is drawn where the picture ends. */
  seam: boolean;
}) {
  const { frame, outline, homography, cost, marks, mended_fraction: mended } = bench.shown;
  const { method } = bench.recipe.fill;
  const cornered = cost.fill_fraction > 0;
  if (!cornered && mended <= 0) return null;
  const place = (point: Point): Point => mapped(view.plane, point);
  const [left, top] = place([frame.x, frame.y]);
  const [right, bottom] = place([frame.x + frame.width, frame.y + frame.height]);
  const box = { left, top, width: right - left, height: bottom - top };
  const framed = boxPoints(left, top, right - left, bottom - top);
  const border = outline.map((p) => place(p as Point));
  const relative = (points: Point[]) => polygon(points.map(([x, y]): Point => [x - left, y - top]));
  // The fill reaches a little over the seam, so that nothing shines through between two soft edges.
  const clip = `path(evenodd, "${relative(framed)}${relative(drawnIn(border, OVERLAP_PX))}")`;
  const address = `${bench.state.addresses.corrected}/filled.jpg?edge=${EDGE_PX}`;
  return (
    <>
      {cornered && (
        <SvgBox position="absolute" inset="0" width="100%" height="100%" pointerEvents="none">
          <defs>
            <pattern
              id="hatch"
              width="9"
              height="9"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <rect width="9" height="9" fill="#d9d4c6" />
              <path d="M0,0V9" stroke="#8d8779" strokeWidth="3" />
            </pattern>
            <clipPath id="in-frame">
              <path d={polygon(framed)} />
            </clipPath>
          </defs>
          <path
            d={`M0,0H${size.width}V${size.height}H0Z${polygon(border)}`}
            fillRule="evenodd"
            fill="url(#hatch)"
            clipPath="url(#in-frame)"
            data-to-fill
          />
        </SvgBox>
      )}
      {bench.atRest && mended > 0 && (
        <MendedLayer
          // What was made for another turn or frame does not lie where this one does.
          key={JSON.stringify([homography, frame])}
          src={address}
          box={box}
          size={size}
          view={view}
          marks={marks.mends}
        />
      )}
      {bench.atRest && cornered && method !== "transparent" && (
        <>
          {method === "patches" && (
            <Layer key={`quick ${address}`} src={`${address}&quick=true`} box={box} clip={clip} />
          )}
          <Layer key={address} src={address} box={box} clip={clip} final />
        </>
      )}
      {seam && (
        <SvgBox
          position="absolute"
          inset="0"
          width="100%"
          height="100%"
          pointerEvents="none"
          fill="none"
        >
          <path
            d={polygon(border)}
            stroke="#fffdf8"
            strokeOpacity=".8"
            strokeWidth="1"
            strokeDasharray="4 4"
            clipPath={cornered ? "url(#in-frame)" : undefined}
            display={cornered ? undefined : "none"}
          />
          <FlawRings bench={bench} box={box} />
        </SvgBox>
      )}
    </>
  );
}

/** The points of an outline moved towards its middle. */
function drawnIn(points: Point[], by: number): Point[] {
  const middle: Point = [
    points.reduce((sum, [x]) => sum + x, 0) / points.length,
    points.reduce((sum, [, y]) => sum + y, 0) / points.length,
  ];
  return points.map((p) => between(p, middle, Math.min(1, by / Math.max(1, distance(p, middle)))));
}

function Layer({
  src,
  box,
  clip,
  final,
}: {
  src: string;
  box: { left: number; top: number; width: number; height: number };
  clip: string;
  final?: boolean;
}) {
  const [loaded, setLoaded] = useState(false);
  const [problem, setProblem] = useState<string>();
  const ask = async () =>
    setProblem(
      (await problemAt(src)) ?? t("The corners could not be filled; the picture is kept as it is."),
    );
  return (
    <>
      <Picture
        ref={givenUp}
        src={src}
        alt=""
        aria-hidden
        data-filled={final ? loaded : undefined}
        draggable={false}
        position="absolute"
        maxWidth="none"
        pointerEvents="none"
        onLoad={() => setLoaded(true)}
        onError={() => final && void ask()}
        style={{ ...box, clipPath: clip, visibility: loaded ? "visible" : "hidden" }}
      />
      {final && !loaded && (
        <StageWords bottom="52px" role={problem ? "alert" : "status"}>
          {problem ?? t("The corners are being filled…")}
        </StageWords>
      )}
    </>
  );
}
