/* Proposed lines on the picture: thin and broken where a reading in ink is solid, their signs
   hollow. */
import { chakra } from "@chakra-ui/react";
import type { ProposalOut, SolvedReading } from "../api/client";
import { between, line, type Point } from "./geometry";

const Line = chakra("g");

interface Props {
  found: ProposalOut;
  asShot?: boolean;
  /** Takes a point of the picture that is seen to where it is drawn. */
  lay: (point: Point) => Point;
  lit?: string | undefined;
  previewed?: readonly SolvedReading[];
}

export function PencilLines({ found, asShot, lay, lit, previewed }: Props) {
  return (
    <g pointerEvents="none" data-pencil>
      {found.proposal.readings.map(({ reading, straight }) => {
        // In a preview the picture is already as the proposal would have it.
        const solved = previewed?.find(({ id }) => id === reading.id)?.undistorted_points;
        const ends = asShot ? reading.points : (solved ?? straight);
        const points = ends.map((point) => lay(point as Point));
        const a = points[0] as Point;
        const b = points.at(-1) as Point;
        const path = line(points);
        const strong = reading.id === lit;
        return (
          <Line key={reading.id} color={`${reading.kind}OnPicture`} data-proposed={reading.kind}>
            <path d={path} stroke="#000" strokeOpacity=".5" strokeWidth={strong ? 4.5 : 3} />
            <path
              d={path}
              stroke="currentColor"
              strokeWidth={strong ? 2.4 : 1.4}
              strokeDasharray="5 4"
            />
            {reading.kind !== "trace" && <Sign kind={reading.kind} a={a} b={b} />}
          </Line>
        );
      })}
    </g>
  );
}

function Sign({ kind, a, b }: { kind: string; a: Point; b: Point }) {
  const turned = (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI;
  const [mx, my] = between(a, b, 0.5);
  if (kind === "plumb") {
    const [low, high] = a[1] > b[1] ? [a, b] : [b, a];
    const hang = (Math.atan2(low[1] - high[1], low[0] - high[0]) * 180) / Math.PI - 90;
    return (
      <path
        d="M-4.5-3h9L0 7z"
        fill="#0006"
        stroke="currentColor"
        strokeWidth="1.3"
        transform={`translate(${low.join(" ")}) rotate(${hang})`}
      />
    );
  }
  return (
    <path
      d={kind === "horizon" ? "M-9 0a9 9 0 0 1 18 0z" : "M-8-4h16a4 4 0 0 1 0 8h-16a4 4 0 0 1 0-8z"}
      fill="#0006"
      stroke="currentColor"
      strokeWidth="1.3"
      transform={`translate(${mx} ${my}) rotate(${turned})`}
    />
  );
}
