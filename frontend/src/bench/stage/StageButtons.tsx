/* What can be laid over the picture, and how near it is seen. */
import { Flex } from "@chakra-ui/react";
import { createPortal } from "react-dom";
import { decimal, t } from "../../shared/words";
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
  near: View["near"];
  aids: Aids;
  /** Whether the picture bends, so that its mesh can be laid over it. */
  bends: boolean;
}

export function StageButtons({ desk, showing, near: { zoom, fitted, fit }, aids, bends }: Props) {
  const { grid, outline } = desk;
  const asShot = showing === "shot";
  const working = isWorked(showing);
  const run = useRunAlong(desk);
  const { upright, low } = useRoom();
  const over = working && (
    <>
      <StageButton
        onClick={desk.turnGrid}
        label={t("Grid: {grid}", { grid: GRID_NAMES[grid] })}
        hint="G"
      />
      {!asShot && (
        <>
          <StageButton
            onClick={() => aids.addGuide("level")}
            label={t("Guide —")}
            name={t("Add a level guide")}
            title={t(
              "A level guide that stands still: drag it onto the picture to hold it against a line",
            )}
          />
          <StageButton
            onClick={() => aids.addGuide("plumb")}
            label={t("Guide |")}
            name={t("Add a plumb guide")}
            title={t(
              "A plumb guide that stands still: drag it onto the picture to hold it against a line",
            )}
          />
          <StageButton
            onClick={desk.toggleOutline}
            label={outline ? t("Outline: on") : t("Outline: off")}
            hint="O"
            title={t("The frame of the camera over the corrected picture (O)")}
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
          label={t("Loupe {power}×", { power: aids.power })}
          hint="M"
          title={t("How much the loupe magnifies while an end is in the hand (M)")}
        />
      )}
      {desk.step === "measure" && working && run.canRun && (
        <StageButton
          onClick={run.toggle}
          label={run.running ? t("Stop") : t("Run along")}
          hint=", ."
          title={t(
            "Run the loupe along the reading that is lit, to see whether it lies on its edge throughout (, and . by steps)",
          )}
        />
      )}
      {bends && working && !asShot && (
        <StageButton
          onClick={aids.turnOverlay}
          label={t("Bending: {overlay}", { overlay: OVERLAY_NAMES[aids.overlay] })}
          hint="W"
          title={t(
            "How the picture bends: the mesh, or by how much each part grows or shrinks (W)",
          )}
        />
      )}
      <StageButton
        onClick={fit}
        label={`${fitted ? t("fit ") : ""}${decimal(zoom * 100, zoom < 0.1 ? 1 : 0)} %`}
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
