/* The frame in the hand: its edges and corners, the box to keep, the point to aim at, what is not
   to be copied from, and the guides in it.

   The hand says where the frame should go; the server answers where it may. An edge stops at the
   picture's outline, and goes past it only when it is pulled on and there is a fill allowance. */
import { chakra } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { GuideShape } from "../../api/client";
import { useRoom } from "../../shared/useWindow";
import { isBrush, type Framing } from "../frame/useFraming";
import type { Bench } from "../useBench";
import { boxPoints, line, mapped, polygon, type Point } from "../../picture/geometry";
import { DrawBox } from "./DrawBox";
import { DrawStroke } from "./DrawStroke";
import { MendMarks } from "./MendMarks";
import { AimPoint, KeepBox } from "./FrameMarks";
import { Stroke } from "./Stroke";
import { REACH_PX } from "./tools";
import { useFrameHold, type Handle } from "./useFrameHold";
import type { View } from "./useView";

const Grip = chakra("circle");
const Body = chakra("path");

const WHOLE: Handle = [0, 0];
const HANDLES: { handle: Handle; name: string; cursor: string }[] = [
  { handle: [-1, -1], name: t("top left corner"), cursor: "nwse-resize" },
  { handle: [0, -1], name: t("top edge"), cursor: "ns-resize" },
  { handle: [1, -1], name: t("top right corner"), cursor: "nesw-resize" },
  { handle: [1, 0], name: t("right edge"), cursor: "ew-resize" },
  { handle: [1, 1], name: t("bottom right corner"), cursor: "nwse-resize" },
  { handle: [0, 1], name: t("bottom edge"), cursor: "ns-resize" },
  { handle: [-1, 1], name: t("bottom left corner"), cursor: "nesw-resize" },
  { handle: [-1, 0], name: t("left edge"), cursor: "ew-resize" },
];
interface Props {
  bench: Bench;
  view: View;
  framing: Framing;
  guides: GuideShape[];
  size: { width: number; height: number };
  onHold: (held: boolean) => void;
}

export function FrameHands({ bench, view, framing, guides, size, onHold }: Props) {
  const { x, y, width, height } = bench.shown.face;
  const { marks } = bench.solution;
  const at = ([u, v]: readonly [number, number]): Point =>
    mapped(view.plane, [x + u * width, y + v * height]);
  const hold = useFrameHold(bench, view, onHold);
  const { fingers } = useRoom();
  const guide = guides.find((shape) => shape.guide === framing.guide);

  return (
    <g>
      {guide?.lines.map(([from, to], index) => (
        <g key={index} pointerEvents="none" data-composition={guide.guide}>
          <path d={line([at(from), at(to)])} stroke="#000" strokeOpacity=".45" strokeWidth="2.4" />
          <path d={line([at(from), at(to)])} stroke="#fffdf8" strokeOpacity=".85" strokeWidth="1" />
        </g>
      ))}
      <Body
        d={polygon(boxPoints(x, y, width, height).map((p) => mapped(view.plane, p)))}
        fill="transparent"
        pointerEvents={framing.tool ? "none" : "all"}
        cursor="move"
        role="button"
        tabIndex={0}
        aria-label={t("Frame")}
        {...hold.on(WHOLE)}
        _focusVisible={{ outline: "none", stroke: "verdigris", strokeWidth: 4 }}
      />
      {marks.avoid.map((box, index) => (
        <path
          key={index}
          d={polygon(box.map((p) => mapped(view.plane, p)))}
          fill="#a83c25"
          fillOpacity=".22"
          stroke="#f7c4b6"
          strokeWidth="1.5"
          strokeDasharray="3 4"
          pointerEvents="none"
          data-avoid
        />
      ))}
      {marks.still.map((box, index) => (
        <path
          key={index}
          d={polygon(box.map((p) => mapped(view.plane, p)))}
          stroke="#bfe3ff"
          strokeWidth="1.6"
          strokeDasharray="8 3 2 3"
          pointerEvents="none"
          data-still
        />
      ))}
      {marks.brushed.map(({ points, reach }, index) => (
        <g key={index} pointerEvents="none" data-still-brush>
          <Stroke
            points={points.map((p) => mapped(view.plane, p as Point))}
            reach={reach * view.zoom}
            colour="#bfe3ff"
          />
        </g>
      ))}
      {marks.keep.length > 0 && <KeepBox bench={bench} view={view} />}
      {marks.aim && <AimPoint bench={bench} view={view} point={marks.aim} />}
      {HANDLES.map(({ handle, name, cursor }) => {
        const [cx, cy] = at([(handle[0] + 1) / 2, (handle[1] + 1) / 2]);
        return (
          <g key={name} {...hold.on(handle)} pointerEvents={framing.tool ? "none" : "all"}>
            {fingers && <circle cx={cx} cy={cy} r={REACH_PX} fill="transparent" />}
            <Grip
              role="button"
              tabIndex={0}
              aria-label={t("Frame, {name}", { name })}
              cx={cx}
              cy={cy}
              r={handle[0] && handle[1] ? 6.5 : 5.5}
              fill="onPicture"
              stroke="verdigris"
              strokeWidth="2"
              cursor={cursor}
              _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
            />
          </g>
        );
      })}
      <MendMarks marks={marks.mends} view={view} />
      {isBrush(framing.tool) && (
        <DrawStroke
          key={framing.tool}
          tool={framing.tool}
          bench={bench}
          view={view}
          framing={framing}
          size={size}
        />
      )}
      {framing.tool && !isBrush(framing.tool) && (
        <DrawBox
          key={framing.tool}
          tool={framing.tool}
          bench={bench}
          view={view}
          framing={framing}
          size={size}
        />
      )}
    </g>
  );
}
