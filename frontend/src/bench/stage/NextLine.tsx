/* The line that would tell most if it were drawn next: thin and dotted, with no sign of its own, as
   nothing lies there yet. */
import { chakra } from "@chakra-ui/react";
import type { Solution } from "../../api/client";
import { line, mapped, type Point } from "../../picture/geometry";
import type { View } from "./useView";

const Line = chakra("g");

interface Props {
  next: NonNullable<Solution["next_line"]>;
  view: Pick<View, "plane">;
}

export function NextLine({ next, view }: Props) {
  const path = line(next.corrected_points.map((point) => mapped(view.plane, point as Point)));
  return (
    <Line color={`${next.kind}OnPicture`} pointerEvents="none" data-next-line={next.kind}>
      <path d={path} stroke="#000" strokeOpacity=".35" strokeWidth="4" />
      <path
        d={path}
        stroke="currentColor"
        strokeWidth="2.4"
        strokeDasharray="0.1 6"
        strokeLinecap="round"
      />
    </Line>
  );
}
