/* The angle that a line is to have by bending: a grip beyond its end that is dragged where it
   should point. */
import { chakra } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import { useRef, type KeyboardEvent } from "react";
import { decimal, t } from "../../shared/words";
import { arrow, stepOf } from "../../shared/keys";
import { useRoom } from "../../shared/useWindow";
import type { Bench } from "../useBench";
import { distance, inverse, mapped, type Point } from "../../picture/geometry";
import { REACH_PX } from "./tools";
import type { View } from "./useView";

const Grip = chakra("g");
const BEYOND_PX = 42;
const STEP_DEG = 0.1;

interface Props {
  bench: Bench;
  view: View;
  id: string;
  number: number;
  ends: [Point, Point];
}

export function WantedAngle({ bench, view, id, number, ends: [from, to] }: Props) {
  const { fingers } = useRoom();
  const long = distance(from, to) || 1;
  const beyond = (share: number): Point => [
    to[0] + ((to[0] - from[0]) / long) * share,
    to[1] + ((to[1] - from[1]) / long) * share,
  ];
  const [x, y] = beyond(BEYOND_PX);
  const wanted = bench.solution.readings.find((reading) => reading.id === id)?.wanted_deg ?? 0;
  // Where keys have turned it, until the server has kept all of it.
  const keyed = useRef<number>(undefined);
  const drag = useDrag(
    ({ first, last, canceled, event, xy }) => {
      if (first) return event.stopPropagation();
      if (last) {
        if (canceled) bench.acts.drop();
        else void bench.acts.settle();
        return;
      }
      const at = mapped(inverse(view.plane), view.at(xy));
      bench.acts.draft({ do: "point_reading", id, end: 1, to: at });
    },
    { pointer: { keys: false } },
  );
  const onKeyDown = (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = stepOf(event, STEP_DEG);
    const stored = bench.atRest && !bench.saving;
    const now = (stored ? undefined : keyed.current) ?? wanted;
    const turned = Math.round((now + (way[0] + way[1]) * step) * 1000) / 1000;
    keyed.current = turned;
    bench.acts.recordSoon({ do: "let_reading_become", id, becomes: "angle", wanted_deg: turned });
  };
  return (
    <g>
      <path
        d={`M${to.join(",")}L${x},${y}`}
        stroke="#fffdf8"
        strokeWidth="1.4"
        strokeDasharray="3 4"
        pointerEvents="none"
      />
      <Grip
        role="slider"
        tabIndex={0}
        aria-label={t("Wanted angle of reading {number}", { number })}
        aria-valuenow={wanted}
        aria-valuetext={t("{wanted} degrees", { wanted: decimal(wanted, 2) })}
        fill="set_outOnPicture"
        stroke="set_outDeep"
        strokeWidth="2"
        cursor="grab"
        {...drag()}
        onKeyDown={onKeyDown}
        _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
      >
        {fingers && <circle cx={x} cy={y} r={REACH_PX} fill="transparent" stroke="none" />}
        <path d={`M${x},${y - 9}l9,9l-9,9l-9-9z`} />
      </Grip>
    </g>
  );
}
