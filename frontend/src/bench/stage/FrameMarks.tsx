/* The box to keep and the point to aim at, which can be taken in hand. */
import { chakra } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import { useRef, type KeyboardEvent } from "react";
import { t } from "../../shared/words";
import { arrow, stepOf } from "../../shared/keys";
import type { Bench } from "../useBench";
import { mapped, polygon, type Point } from "../../picture/geometry";
import { BY_HAND, STEP_PX } from "./useFrameHold";
import type { View } from "./useView";

const Grip = chakra("circle");

/**
 * A thing on the picture that can be dragged and nudged; it says where it should be.
 *
 * @param point Where the server has it in the corrected picture.
 */
function useGrip(point: Point, view: View, onMove: (point: Point) => void) {
  // Where keys have moved it, until the server says where it is.
  const keyed = useRef<{ of: Point; at: Point }>(undefined);
  const drag = useDrag(({ first, event, xy }) => {
    if (first) event.stopPropagation();
    else onMove(view.fromStage(view.at(xy)));
  }, BY_HAND);
  const onKeyDown = (event: KeyboardEvent) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const [x, y] =
      keyed.current && keyed.current.of === point
        ? keyed.current.at
        : view.fromStage(mapped(view.plane, point));
    const next: Point = [x + way[0] * stepOf(event, STEP_PX), y + way[1] * stepOf(event, STEP_PX)];
    keyed.current = { of: point, at: next };
    onMove(next);
  };
  return { ...drag(), onKeyDown };
}

export function KeepBox({ bench, view }: { bench: Bench; view: View }) {
  const { keep, keep_vertices } = bench.solution.marks;
  const points = keep.map((p) => mapped(view.plane, p));
  const [topLeft, , bottomRight] = keep_vertices as [Point, Point, Point, Point];
  const move = (corner: "top_left" | "bottom_right") => (to: Point) =>
    bench.acts.recordSoon({ do: "move_keep_corner", corner, to, seen: view.seen });
  const first = useGrip(topLeft, view, move("top_left"));
  const second = useGrip(bottomRight, view, move("bottom_right"));
  const [x, y] = points[0] as Point;
  return (
    <g data-keep>
      <path
        d={polygon(points)}
        stroke="#000"
        strokeOpacity=".5"
        strokeWidth="4"
        pointerEvents="none"
      />
      <path d={polygon(points)} stroke="#9fe0d4" strokeWidth="2" pointerEvents="none" />
      <text
        x={x + 8}
        y={y - 8}
        fontSize="12"
        fill="#fff"
        stroke="#000"
        strokeWidth="3"
        paintOrder="stroke"
        pointerEvents="none"
      >
        {t("keep")}
      </text>
      <MarkGrip
        name={t("Box to keep, top left")}
        point={mapped(view.plane, topLeft)}
        hands={first}
      />
      <MarkGrip
        name={t("Box to keep, bottom right")}
        point={mapped(view.plane, bottomRight)}
        hands={second}
      />
    </g>
  );
}

export function AimPoint({ bench, view, point }: { bench: Bench; view: View; point: Point }) {
  const hands = useGrip(point, view, (to) =>
    bench.acts.recordSoon({ do: "move_aim", to, seen: view.seen }),
  );
  const [x, y] = mapped(view.plane, point);
  const cross = `M${x - 16},${y}H${x - 5}M${x + 5},${y}H${x + 16}M${x},${y - 16}V${y - 5}M${x},${y + 5}V${y + 16}`;
  return (
    <g data-aim>
      <path d={cross} stroke="#000" strokeOpacity=".5" strokeWidth="4" pointerEvents="none" />
      <path d={cross} stroke="#9fe0d4" strokeWidth="2" pointerEvents="none" />
      <MarkGrip name={t("Point to aim at")} point={[x, y]} hands={hands} />
    </g>
  );
}

function MarkGrip({
  name,
  point: [x, y],
  hands,
}: {
  name: string;
  point: Point;
  hands: ReturnType<typeof useGrip>;
}) {
  return (
    <Grip
      role="button"
      tabIndex={0}
      aria-label={name}
      cx={x}
      cy={y}
      r="5.5"
      fill="#9fe0d4"
      stroke="inkOnPicture"
      strokeWidth="2"
      cursor="move"
      {...hands}
      _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
    />
  );
}
