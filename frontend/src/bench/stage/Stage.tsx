/* The stage: the picture as large as possible on neutral grey, with readings, frame, guides and a
   grid that stands still. */
import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { t } from "../../shared/words";
import type { ProposalOut } from "../../api/client";
import { ProxyPicture } from "../../picture/ProxyPicture";
import { useSize } from "../../picture/useSize";
import { useRoom } from "../../shared/useWindow";
import { STAGE_WORDS } from "../AtRest";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { AsShotPane, ShotOver, StrengthSlider, Tag } from "./Compare";
import { DividedShot } from "./DividedShot";
import { isWorked, type Showing } from "./showing";
import { CrispView } from "./CrispView";
import { drawnReadings, endOf, lookedAt, loupeAt } from "./drawn";
import { FilledView } from "./FilledView";
import { Loupe } from "./Loupe";
import { Measured } from "./Measured";
import { OverPicture } from "./OverPicture";
import { StretchLegend } from "./MeshOverlay";
import type { KeyedEnd } from "./ReadingOnStage";
import { StageButtons } from "./StageButtons";
import { StageFoot } from "./StageFoot";
import { isReading, type Hold } from "./tools";
import { useActualSize } from "./useActualSize";
import { useAids } from "./useAids";
import { useHand } from "./useHand";
import { useView } from "./useView";
import { useZoomHands } from "./useZoomHands";

interface Props {
  bench: Bench;
  desk: Desk;
  showing: Showing;
  /** While a key is held the picture as shot lies over it, in place. */
  flick: boolean;
  proposed: ProposalOut | undefined;
}

export function Stage({ bench, desk, showing, flick, proposed }: Props) {
  const { turning } = desk;
  const { file, addresses } = bench.state;
  const measuring = desk.step === "measure";
  const asShot = showing === "shot";
  const working = isWorked(showing);
  const [ref, size] = useSize<HTMLDivElement>();
  const [hold, setHold] = useState<Hold>();
  const [divider, setDivider] = useState(0.5);
  const [strength, setStrength] = useState(0.5);
  const [byKey, setByKey] = useState<KeyedEnd>();
  const [framed, setFramed] = useState(false);
  const aids = useAids();
  const { upright } = useRoom();
  const view = useView({
    box: () => (ref.current as HTMLDivElement).getBoundingClientRect(),
    size,
    state: bench.state,
    shown: bench.shown,
    asShot,
    frozen: turning || framed || hold !== undefined,
  });
  const onPlacedByKey = useFocusNext();
  const hand = useHand({ bench, view, desk, working, hold, setHold, onPlacedByKey });
  const onPointer = useActualSize(view, size, desk.proofScale ?? 1);

  useZoomHands(ref, view, size);

  const inHand = isReading(hold) ? hold : undefined;
  // Only while measuring: afterwards the picture itself is judged.
  const inPencil = new Set(proposed?.proposal.readings.map(({ reading }) => reading.id));
  const readings = measuring
    ? drawnReadings(bench, view, inHand).filter(({ id }) => !inPencil.has(id))
    : [];
  const { bend } = bench.shown;
  const inHandWords =
    inHand && bench.report.readings.find((reading) => reading.id === inHand.id)?.in_hand;
  const empty = bench.recipe.readings.length === 0 && !hold;
  const looked = lookedAt(inHand ? endOf(inHand) : (byKey ?? hand.foot.touched), readings);
  const loupe = loupeAt({ bench, view, desk, looked, readings });

  return (
    <Flex flex="1" minWidth="0" minHeight="0" direction={upright ? "column" : "row"}>
      {showing === "beside" && <AsShotPane bench={bench} asShot={view.asShot} />}
      <Box
        ref={ref}
        role="group"
        data-stage
        aria-label={t("Stage")}
        aria-describedby={STAGE_WORDS}
        data-settled={bench.atRest && !bench.saving && size.width > 0 && !hold}
        tabIndex={0}
        position="relative"
        flex="1"
        minWidth="0"
        overflow="hidden"
        bg="stage"
        touchAction="none"
        userSelect="none"
        cursor={hand.cursor}
        {...hand.on}
        onPointerMoveCapture={onPointer}
        _focusVisible={{ outlineOffset: "-3px" }}
      >
        <ProxyPicture
          bench={bench}
          laid={view.picture}
          alt={
            asShot
              ? t("{name}, as shot", { name: file.name })
              : t("{name}, corrected", { name: file.name })
          }
          moving={turning}
          undistorted={!asShot}
        />
        {bench.atRest && !turning && !hold && !asShot && size.width > 0 && (
          <CrispView bench={bench} view={view} size={size} />
        )}
        {!asShot && <FilledView bench={bench} view={view} size={size} seam={working} />}
        <OverPicture
          bench={bench}
          desk={desk}
          view={view}
          size={size}
          showing={showing}
          aids={aids}
          onFramed={setFramed}
        >
          <Measured
            bench={bench}
            desk={desk}
            view={view}
            size={size}
            readings={readings}
            proposed={proposed}
            clicked={hand.placed}
            readout={inHandWords && looked ? { point: looked.stage, text: inHandWords } : undefined}
            onKeyed={setByKey}
          />
        </OverPicture>
        {showing === "over" && <ShotOver bench={bench} asShot={view.asShot} strength={strength} />}
        {flick && <ShotOver bench={bench} asShot={view.asShot} strength={1} />}
        {showing === "divided" && (
          <DividedShot
            bench={bench}
            asShot={view.asShot}
            size={size}
            share={divider}
            onShare={setDivider}
          />
        )}
        {loupe && measuring && working && (
          <Loupe
            tiles={`${addresses.original}/tiles`}
            file={file}
            point={loupe.source}
            at={loupe.stage}
            turned={view.turnedAt(loupe.picture)}
            size={size}
            power={aids.power}
          />
        )}
        {!desk.bare && (
          <StageButtons
            desk={desk}
            showing={showing}
            near={view.near}
            aids={aids}
            bends={Boolean(bend)}
          />
        )}
        {showing === "over" && !flick && (
          <StrengthSlider strength={strength} onStrength={setStrength} />
        )}
        {bend && aids.overlay === "stretch" && working && !asShot && <StretchLegend />}
        {asShot && <Tag left="114px">{t("as shot")}</Tag>}
        {working && (
          <StageFoot desk={desk} asShot={asShot} empty={empty} hand={hand.foot} acts={bench.acts} />
        )}
      </Box>
    </Flex>
  );
}

/** Gives the focus to an end that is put down by the keys, once it is there. */
function useFocusNext() {
  const next = useRef<string>(undefined);
  useEffect(() => {
    const target = next.current && document.getElementById(`end-${next.current}`);
    if (!target) return;
    next.current = undefined;
    target.focus();
  });
  return (end: string) => {
    next.current = end;
  };
}
