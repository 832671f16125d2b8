/* The stage: the picture as large as possible on neutral grey, with readings, frame, guides and a
   grid that stands still. */
import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { ProposalOut } from "../../api/client";
import { ProxyPicture } from "../../picture/ProxyPicture";
import { useSize } from "../../picture/useSize";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { AsShotPane, DividedShot, Tag, type Showing } from "./Compare";
import { CrispView } from "./CrispView";
import { drawnReadings, endOf, lookedAt, sourcePointOf } from "./drawn";
import { FilledView } from "./FilledView";
import { Loupe } from "./Loupe";
import { Measured } from "./Measured";
import { OverPicture } from "./OverPicture";
import { StretchLegend } from "./MeshOverlay";
import type { KeyedEnd } from "./ReadingOnStage";
import { StageButtons } from "./StageButtons";
import { StageHint } from "./StageHint";
import type { Hold } from "./tools";
import { useAids } from "./useAids";
import { useHand } from "./useHand";
import { useView } from "./useView";
import { useZoomHands } from "./useZoomHands";

interface Props {
  bench: Bench;
  desk: Desk;
  showing: Showing;
  proposed: ProposalOut | undefined;
}

export function Stage({ bench, desk, showing, proposed }: Props) {
  const { turning } = desk;
  const { file, addresses } = bench.state;
  const measuring = desk.step === "measure";
  const asShot = showing === "shot";
  const divided = showing === "divided";
  /** Whether the corrected picture is seen, and it alone. */
  const corrected = !asShot && !divided;
  const [ref, size] = useSize<HTMLDivElement>();
  const [hold, setHold] = useState<Hold>();
  const [divider, setDivider] = useState(0.5);
  const [byKey, setByKey] = useState<KeyedEnd>();
  const [framed, setFramed] = useState(false);
  const aids = useAids();
  const view = useView({
    box: () => (ref.current as HTMLDivElement).getBoundingClientRect(),
    size,
    state: bench.state,
    shown: bench.shown,
    asShot,
    frozen: turning || framed || hold !== undefined,
  });
  const onPlacedByKey = useFocusNext();
  const hand = useHand({ bench, view, desk, hold, setHold, onPlacedByKey });

  useZoomHands(ref, view, size);

  const inHand = hold && hold.what !== "pan" ? hold : undefined;
  // Only while measuring: afterwards the picture itself is judged.
  const inPencil = new Set(proposed?.proposal.readings.map(({ reading }) => reading.id));
  const readings = measuring
    ? drawnReadings(bench, view, inHand).filter(({ id }) => !inPencil.has(id))
    : [];
  const { bend } = bench.shown;
  const inHandWords =
    inHand && bench.report.readings.find((reading) => reading.id === inHand.id)?.in_hand;
  const empty = bench.recipe.readings.length === 0 && !hold;
  const looked = lookedAt(inHand ? endOf(inHand) : byKey, readings);
  const lookedSource = looked && sourcePointOf(bench, view, looked.id, looked.end, looked.picture);

  return (
    <Flex flex="1" minWidth="0">
      {showing === "beside" && <AsShotPane bench={bench} asShot={view.asShot} />}
      <Box
        ref={ref}
        role="group"
        aria-label="Stage"
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
        _focusVisible={{ outlineOffset: "-3px" }}
      >
        <ProxyPicture
          bench={bench}
          laid={view.picture}
          alt={`${file.name}, ${asShot ? "as shot" : "corrected"}`}
          moving={turning}
          undistorted={!asShot}
        />
        {bench.atRest && !turning && !hold && !asShot && size.width > 0 && (
          <CrispView bench={bench} view={view} size={size} />
        )}
        {corrected && <FilledView bench={bench} view={view} size={size} />}
        {divided && (
          <DividedShot
            bench={bench}
            asShot={view.asShot}
            size={size}
            share={divider}
            onShare={setDivider}
          />
        )}
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
        {looked && lookedSource && measuring && (
          <Loupe
            tiles={`${addresses.original}/tiles`}
            file={file}
            point={lookedSource}
            at={looked.stage}
            turned={view.turnedAt(looked.picture)}
            size={size}
            power={aids.power}
          />
        )}
        {!desk.bare && (
          <StageButtons
            desk={desk}
            showing={showing}
            view={view}
            aids={aids}
            bends={Boolean(bend)}
          />
        )}
        {bend && aids.overlay === "stretch" && corrected && <StretchLegend />}
        {asShot && <Tag left="114px">as shot</Tag>}
        {!desk.bare && (
          <StageHint desk={desk} asShot={asShot} empty={empty} placed={hand.placed.length} />
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
