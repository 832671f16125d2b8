/* The corners of the picture in the hand: pulled by eye they turn it, and stretch it where they
   must. */
import { chakra } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import type { KeyboardEvent } from "react";
import { t } from "../../shared/words";
import type { Edit } from "../../api/client";
import { useOptions } from "../../api/options";
import { clamp, mapped, type Point } from "../../picture/geometry";
import type { Size } from "../../picture/useSize";
import { arrow, stepOf } from "../../shared/keys";
import { useRoom } from "../../shared/useWindow";
import type { Bench } from "../useBench";
import { REACH_PX } from "./tools";
import { BY_HAND, STEP_PX } from "./useFrameHold";
import type { View } from "./useView";

const Grip = chakra("rect");
const HALF_PX = 8;

type Corner = Extract<Edit, { do: "pull_corner" }>["corner"];

interface Props {
  bench: Bench;
  view: View;
  size: Size;
  onHold: (held: boolean) => void;
}

export function CornerHands({ bench, view, size, onHold }: Props) {
  const { corners: names } = useOptions();
  const { acts } = bench;
  const { fingers } = useRoom();
  const pull = (corner: Corner, [dx, dy]: readonly [number, number]): Edit => ({
    do: "pull_corner",
    corner,
    by: [dx / view.zoom, dy / view.zoom],
  });
  const drag = useDrag(({ first, last, canceled, tap, event, args, movement }) => {
    const [corner] = args as [Corner];
    if (first) event.stopPropagation();
    if (first) return onHold(true);
    if (!last) return acts.draft(pull(corner, movement));
    onHold(false);
    if (canceled || tap) acts.drop();
    else void acts.settle();
  }, BY_HAND);
  const onKeyDown = (corner: Corner) => (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = stepOf(event, STEP_PX) * view.zoom;
    acts.recordSoon(pull(corner, [way[0] * step, way[1] * step]));
  };
  return bench.solution.marks.vertices.map((vertex, index) => {
    const corner = index as Corner;
    // What lies beyond the stage is taken at its border.
    const [x, y] = mapped(view.plane, vertex as Point);
    const within = (at: number, extent: number) => clamp(at, HALF_PX, extent - HALF_PX);
    const [gx, gy] = [within(x, size.width), within(y, size.height)];
    return (
      <g key={corner} {...drag(corner)} onKeyDown={onKeyDown(corner)}>
        {fingers && <circle cx={gx} cy={gy} r={REACH_PX} fill="transparent" />}
        <Grip
          role="button"
          tabIndex={0}
          aria-label={t("Picture, {corner} corner", { corner: names[corner] })}
          x={gx - HALF_PX}
          y={gy - HALF_PX}
          width={2 * HALF_PX}
          height={2 * HALF_PX}
          transform={`rotate(45 ${gx} ${gy})`}
          fill="onPicture"
          stroke="brick"
          strokeWidth="2.5"
          cursor="move"
          _focusVisible={{ outline: "none", stroke: "verdigris", strokeWidth: 4 }}
        />
      </g>
    );
  });
}
