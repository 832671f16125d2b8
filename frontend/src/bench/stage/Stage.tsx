/* The stage: the picture as large as possible on neutral grey, with readings, frame, guides and a
   grid that stands still. */
import { Box, Flex } from "@chakra-ui/react";
import { useWheel } from "@use-gesture/react";
import { useEffect, useRef, useState } from "react";
import { useOptions } from "../../api/options";
import { useKeys } from "../../shared/keys";
import { SvgBox } from "../../shared/SvgBox";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { AsShotPane, DividedShot, ShotOutline, Tag, type Showing } from "./Compare";
import { CrispView } from "./CrispView";
import { drawnReadings, sourcePointOf, type InHand } from "./drawn";
import { FilledView } from "./FilledView";
import { FRAME_HINTS } from "./DrawBox";
import { FrameHands } from "./FrameHands";
import { corners as cornersOf, mapped, polygon, type Point } from "./geometry";
import { GridLines } from "./GridLines";
import { Guides, type Guide } from "./Guides";
import { Loupe, POWERS } from "./Loupe";
import { ProxyPicture } from "./ProxyPicture";
import type { ProposalOut } from "../../api/client";
import { MeshOverlay, nextOverlay, StretchLegend, type Overlay } from "./MeshOverlay";
import { NextLine } from "./NextLine";
import { PencilLines } from "./PencilLines";
import { ReadingOnStage, type KeyedEnd } from "./ReadingOnStage";
import { StageButtons } from "./StageButtons";
import { ClickedPoints, FrameVeil, hint, Readout, StageWords } from "./StageParts";
import { newId, useHand, type Hold } from "./useHand";
import { useSize, useView } from "./useView";
import { WantedAngle } from "./WantedAngle";

const KEY_ZOOM = 1.25;
/** How much of what lies outside the frame is veiled where the frame is not in hand. */
const OUTSIDE_DIM = 0.66;
const ZOOM_PER_PX = 0.0015;

interface Props {
  bench: Bench;
  desk: Desk;
  showing: Showing;
  proposed: ProposalOut | undefined;
}

export function Stage({ bench, desk, showing, proposed }: Props) {
  const { tool, selected, turning, framing, said, grid, outline, fitting } = desk;
  const measuring = desk.step === "measure";
  // Whether the frame can be taken in hand.
  const placing = desk.step === "frame";
  const { guides: compositions } = useOptions();
  const [ref, size] = useSize<HTMLDivElement>();
  const [hold, setHold] = useState<Hold>();
  const [power, setPower] = useState(8);
  const [guides, setGuides] = useState<Guide[]>([]);
  const [divider, setDivider] = useState(0.5);
  const [byKey, setByKey] = useState<KeyedEnd>();
  const [framed, setFramed] = useState(false);
  const [overlay, setOverlay] = useState<Overlay>("off");
  const focusNext = useRef<string>(undefined);
  const { file, addresses } = bench.state;
  const asShot = showing === "shot";
  const divided = showing === "divided";
  const box = () => (ref.current as HTMLDivElement).getBoundingClientRect();
  const view = useView({
    box,
    size,
    state: bench.state,
    shown: bench.shown,
    asShot,
    frozen: turning || framed || hold !== undefined,
  });
  const onPlacedByKey = (focus: string) => {
    focusNext.current = focus;
  };
  const hand = useHand({
    bench,
    view,
    tool,
    onTool: desk.setTool,
    onSelect: desk.select,
    onSay: desk.say,
    measuring,
    fitting,
    hold,
    setHold,
    onPlacedByKey,
  });

  // A wheel listener must not be passive, or the page would zoom too.
  useWheel(
    ({ event, delta: [, moved] }) => {
      event.preventDefault();
      view.zoomFrom(view, Math.exp(-moved * ZOOM_PER_PX), view.at([event.clientX, event.clientY]));
    },
    { target: ref, eventOptions: { passive: false } },
  );
  const turnOverlay = () => setOverlay(nextOverlay);
  const nextPower = () =>
    setPower((now) => POWERS[(POWERS.indexOf(now) + 1) % POWERS.length] ?? now);
  const zoomBy = (factor: number) => view.zoomFrom(view, factor, [size.width / 2, size.height / 2]);
  useKeys(["m"], nextPower);
  useKeys(["w"], turnOverlay);
  useKeys(["+", "="], () => zoomBy(KEY_ZOOM));
  useKeys(["-"], () => zoomBy(1 / KEY_ZOOM));
  useKeys(["0"], view.fit);
  useEffect(() => {
    const target = focusNext.current && document.getElementById(`end-${focusNext.current}`);
    if (!target) return;
    focusNext.current = undefined;
    target.focus();
  });

  const addGuide = (direction: Guide["direction"]) =>
    setGuides((now) => [
      ...now,
      { id: newId(), direction, at: direction === "level" ? [0.5, 0.4] : [0.4, 0.5] },
    ]);

  const inHand: InHand | undefined = hold && hold.what !== "pan" ? hold : undefined;
  // Only while measuring: afterwards the picture itself is judged.
  const inPencil = new Set(proposed?.proposal.readings.map(({ reading }) => reading.id));
  const readings = measuring
    ? drawnReadings(bench, view, inHand).filter(({ id }) => !inPencil.has(id))
    : [];
  const { frame } = bench.shown;
  const next = bench.solution.next_line;
  const framedPath = polygon(
    asShot
      ? bench.shown.frame_source.map(view.toStage)
      : cornersOf(frame.x, frame.y, frame.width, frame.height).map((p) => mapped(view.plane, p)),
  );
  const inHandWords =
    inHand && bench.report.readings.find((reading) => reading.id === inHand.id)?.in_hand;
  const empty = bench.recipe.readings.length === 0 && !hold;
  const looked = lookedAt(
    inHand ? { id: inHand.id, end: inHand.what === "draw" ? 1 : inHand.end } : byKey,
    readings,
  );
  const lookedSource = looked && sourcePointOf(bench, view, looked.id, looked.end, looked.picture);
  const placed = hand.corners.map(view.toStage);
  const bent = bench.shown.bend?.grid;
  const angled = new Set(
    bench.recipe.readings.filter(({ becomes }) => becomes === "angle").map(({ id }) => id),
  );
  const pointed = readings.find(({ id }) => id === selected && angled.has(id));

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
        cursor={
          hold?.what === "pan"
            ? "grabbing"
            : hand.space
              ? "grab"
              : tool && measuring
                ? "crosshair"
                : "default"
        }
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
        {!asShot && !divided && <FilledView bench={bench} view={view} size={size} />}
        {divided && (
          <DividedShot
            bench={bench}
            asShot={view.asShot}
            size={size}
            share={divider}
            onShare={setDivider}
          />
        )}
        <SvgBox
          position="absolute"
          inset="0"
          width="100%"
          height="100%"
          fill="none"
          pointerEvents={divided ? "none" : undefined}
        >
          <FrameVeil
            frame={framedPath}
            size={size}
            dim={asShot || divided ? 0 : placing ? framing.dim : OUTSIDE_DIM}
            dashed={asShot}
          />
          {outline && !asShot && <ShotOutline asShot={view.asShot} file={file} />}
          <GridLines grid={grid} width={size.width} height={size.height} />
          {!divided &&
            readings.map((reading) => (
              <ReadingOnStage
                key={reading.id}
                reading={reading}
                lit={reading.id === selected}
                onSelect={desk.select}
                onKeyed={setByKey}
              />
            ))}
          {!divided && measuring && proposed && (
            <PencilLines
              found={proposed}
              view={view}
              lit={selected}
              previewed={bench.solution.readings}
            />
          )}
          {!divided && measuring && !proposed && next && !asShot && (
            <NextLine next={next} view={view} />
          )}
          <ClickedPoints points={placed} />
          {!asShot && !divided && bent && (
            <MeshOverlay
              grid={bent}
              plane={view.plane}
              outline={bench.shown.outline as Point[]}
              overlay={overlay}
            />
          )}
          {pointed && !asShot && !divided && (
            <WantedAngle
              bench={bench}
              view={view}
              id={pointed.id}
              number={pointed.number}
              ends={[pointed.points[0] as Point, pointed.points.at(-1) as Point]}
            />
          )}
          {inHandWords && looked && <Readout point={looked.stage} text={inHandWords} size={size} />}
          {placing && !asShot && !divided && (
            <FrameHands
              bench={bench}
              view={view}
              framing={framing}
              guides={compositions}
              size={size}
              onHold={setFramed}
            />
          )}
          {!asShot && !divided && (
            <Guides guides={guides} onChange={setGuides} bench={bench} view={view} size={size} />
          )}
        </SvgBox>
        {looked && lookedSource && measuring && (
          <Loupe
            tiles={`${addresses.original}/tiles`}
            file={file}
            point={lookedSource}
            at={looked.stage}
            turned={view.turnedAt(looked.picture)}
            size={size}
            power={power}
          />
        )}
        <StageButtons
          desk={desk}
          showing={showing}
          view={view}
          power={power}
          onPower={nextPower}
          onGuide={addGuide}
          overlay={bent && overlay}
          onOverlay={turnOverlay}
        />
        {bent && overlay === "stretch" && !asShot && !divided && <StretchLegend />}
        {asShot && <Tag left="102px">as shot</Tag>}
        {placing && framing.tool && !asShot && <StageWords>{FRAME_HINTS[framing.tool]}</StageWords>}
        {measuring && (said || tool || empty) && (
          <StageWords>{said ?? hint(tool, empty, hand.corners.length)}</StageWords>
        )}
      </Box>
    </Flex>
  );
}

interface Looked extends KeyedEnd {
  stage: Point;
  picture: Point;
}

/** The end that the loupe follows, on the stage and in the picture. */
function lookedAt(
  end: KeyedEnd | undefined,
  readings: ReturnType<typeof drawnReadings>,
): Looked | undefined {
  const reading = readings.find((other) => other.id === end?.id);
  const stage = end && reading?.handles[end.end];
  const picture = end && reading?.inPicture[end.end];
  return end && stage && picture ? { ...end, stage, picture } : undefined;
}
