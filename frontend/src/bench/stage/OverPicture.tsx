/* What is drawn over the picture: the frame's veil and outline, the grid, what was measured, the
   frame's hands, the guides. */
import type { ReactNode } from "react";
import { useOptions } from "../../api/options";
import { boxPoints, mapped, polygon, type Point } from "../../picture/geometry";
import type { Size } from "../../picture/useSize";
import { SvgBox } from "../../shared/SvgBox";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { ShotOutline } from "./Compare";
import { isWorked, type Showing } from "./showing";
import { CornerHands } from "./CornerHands";
import { DrawBox } from "./DrawBox";
import { FrameHands } from "./FrameHands";
import { GridLines } from "./GridLines";
import { Guides } from "./Guides";
import { MeshOverlay } from "./MeshOverlay";
import { FrameVeil } from "./StageParts";
import type { Aids } from "./useAids";
import { useTurning } from "./useTurning";
import type { View } from "./useView";

/** How much of what lies outside the frame is veiled where the frame is not in hand. */
const OUTSIDE_DIM = 0.66;

interface Props {
  bench: Bench;
  desk: Desk;
  view: View;
  size: Size;
  showing: Showing;
  aids: Aids;
  onFramed: (held: boolean) => void;
  /** What was measured. */
  children: ReactNode;
}

export function OverPicture({ bench, desk, view, size, showing, aids, onFramed, children }: Props) {
  const { guides: compositions } = useOptions();
  const turning = useTurning(bench);
  const asShot = showing === "shot";
  const working = isWorked(showing);
  const placing = desk.step === "frame" || desk.step === "corners";
  const { frame, face, bend, frame_source, outline } = bench.shown;
  const boxOf = ({ x, y, width, height }: typeof frame): Point[] =>
    boxPoints(x, y, width, height).map((p) => mapped(view.plane, p));
  const framed = asShot ? frame_source.map(view.toStage) : boxOf(frame);
  const drawing = (desk.step === "measure" && desk.tool) || desk.framing.tool;
  const outside = placing ? desk.framing.dim : OUTSIDE_DIM;
  return (
    <>
      {working && (
        <GridLines grid={desk.grid} turning={turning} width={size.width} height={size.height} />
      )}
      <SvgBox
        position="absolute"
        inset="0"
        width="100%"
        height="100%"
        fill="none"
        pointerEvents={working ? undefined : "none"}
      >
        <FrameVeil
          frame={polygon(framed)}
          face={!asShot && face.width < frame.width ? polygon(boxOf(face)) : undefined}
          size={size}
          dim={asShot ? 0 : working ? outside : 1}
          dashed={asShot}
          outlined={working}
          turns={working && !asShot && !drawing}
        />
        {desk.outline && !asShot && <ShotOutline asShot={view.asShot} file={bench.state.file} />}
        {working && children}
        {working && desk.step === "lens" && desk.framing.tool === "grey" && (
          <DrawBox tool="grey" bench={bench} view={view} framing={desk.framing} size={size} />
        )}
        {working && !asShot && (
          <>
            {bend && (
              <MeshOverlay
                grid={bend.grid}
                plane={view.plane}
                outline={outline as Point[]}
                overlay={aids.overlay}
              />
            )}
            {placing && (
              <FrameHands
                bench={bench}
                view={view}
                framing={desk.framing}
                guides={compositions}
                size={size}
                onHold={onFramed}
              />
            )}
            {desk.pulling && (
              <CornerHands bench={bench} view={view} size={size} onHold={onFramed} />
            )}
            <Guides
              guides={aids.guides}
              onChange={aids.setGuides}
              bench={bench}
              view={view}
              size={size}
            />
          </>
        )}
      </SvgBox>
    </>
  );
}
