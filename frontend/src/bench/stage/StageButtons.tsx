/* What can be laid over the picture, and how near it is seen. */
import { Flex } from "@chakra-ui/react";
import { createPortal } from "react-dom";
import { useRoom } from "../../shared/useWindow";
import type { Desk } from "../useDesk";
import { isWorked, type Showing } from "./showing";
import { GRID_NAMES } from "./GridLines";
import { OVERLAY_NAMES } from "./MeshOverlay";
import { StageButton } from "./StageParts";
import type { Aids } from "./useAids";
import { useRunAlong } from "./useRunAlong";
import type { View } from "./useView";

interface Props {
  desk: Desk;
  showing: Showing;
  view: View;
  aids: Aids;
  /** Whether the picture bends, so that its mesh can be laid over it. */
  bends: boolean;
}

export function StageButtons({ desk, showing, view, aids, bends }: Props) {
  const { grid, outline } = desk;
  const asShot = showing === "shot";
  const working = isWorked(showing);
  const run = useRunAlong(desk);
  const { upright, low } = useRoom();
  const over = working && (
    <>
      <StageButton onClick={desk.turnGrid} label={`Grid: ${GRID_NAMES[grid]}`} hint="G" />
      {!asShot && (
        <>
          <StageButton
            onClick={() => aids.addGuide("level")}
            label="Guide —"
            name="Add a level guide"
            title="A level guide that stands still: drag it onto the picture to hold it against a line"
          />
          <StageButton
            onClick={() => aids.addGuide("plumb")}
            label="Guide |"
            name="Add a plumb guide"
            title="A plumb guide that stands still: drag it onto the picture to hold it against a line"
          />
          <StageButton
            onClick={desk.toggleOutline}
            label={outline ? "Outline: on" : "Outline: off"}
            hint="O"
            title="The frame of the camera over the corrected picture (O)"
          />
        </>
      )}
    </>
  );
  const near = (
    <>
      {desk.step === "measure" && working && (
        <StageButton
          onClick={aids.nextPower}
          label={`Loupe ${aids.power}×`}
          hint="M"
          title="How much the loupe magnifies while an end is in the hand (M)"
        />
      )}
      {desk.step === "measure" && working && run.canRun && (
        <StageButton
          onClick={run.toggle}
          label={run.running ? "Stop" : "Run along"}
          hint=", ."
          title="Run the loupe along the reading that is lit, to see whether it lies on its edge throughout (, and . by steps)"
        />
      )}
      {bends && working && !asShot && (
        <StageButton
          onClick={aids.turnOverlay}
          label={`Bending: ${OVERLAY_NAMES[aids.overlay]}`}
          hint="W"
          title="How the picture bends: the mesh, or by how much each part grows or shrinks (W)"
        />
      )}
      <StageButton
        onClick={view.fit}
        label={`${view.fitted ? "fit " : ""}${(view.zoom * 100).toFixed(view.zoom < 0.1 ? 1 : 0)} %`}
        hint="0"
      />
    </>
  );
  // Beside the picture where there is room; over it nothing lies on the hands of the frame.
  if (desk.step !== "measure" || upright || low)
    return (
      desk.aidsSlot &&
      createPortal(
        <Flex wrap="wrap" gap="6px" px="14px" py="10px">
          {over}
          {near}
        </Flex>,
        desk.aidsSlot,
      )
    );
  return (
    <>
      <Flex position="absolute" left="16px" top="16px" gap="6px">
        {over}
      </Flex>
      <Flex position="absolute" right="16px" top="16px" gap="6px" align="center">
        {near}
      </Flex>
    </>
  );
}
