/* The stage: the picture as large as possible on neutral grey, with readings, frame, guides and a
   grid that stands still. */
import { Box, Flex } from "@chakra-ui/react";
import { useWheel } from "@use-gesture/react";
import { useEffect, useRef, useState } from "react";
import { useOptions } from "../../api/options";
import { useKeys } from "../../shared/keys";
import { SvgBox } from "../../shared/SvgBox";
import type { Framing } from "../frame/useFraming";
import type { Bench } from "../useBench";
import { AsShotPane, DividedShot, ShotOutline, Tag, type Showing } from "./Compare";
import { CrispView } from "./CrispView";
import { drawnReadings, sourcePointOf, type InHand } from "./drawn";
import { FilledView } from "./FilledView";
import { FRAME_HINTS, FrameHands } from "./FrameHands";
import { corners as cornersOf, line, mapped, polygon, type Point } from "./geometry";
import { GRID_NAMES, GridLines, type Grid } from "./GridLines";
import { Guides, type Guide } from "./Guides";
import { Loupe, POWERS } from "./Loupe";
import { ProxyPicture } from "./ProxyPicture";
import type { ProposalOut } from "../../api/client";
import {
  MeshOverlay,
  nextOverlay,
  OVERLAY_NAMES,
  StretchLegend,
  type Overlay,
} from "./MeshOverlay";
import { NextLine } from "./NextLine";
import { PencilLines } from "./PencilLines";
import { ReadingOnStage, type KeyedEnd } from "./ReadingOnStage";
import { hint, Readout, StageButton, StageWords } from "./StageParts";
import { newId, useHand, type Hold, type Tool } from "./useHand";
import { useSize, useView } from "./useView";
import { WantedAngle } from "./WantedAngle";

const KEY_ZOOM = 1.25;
const ZOOM_PER_PX = 0.0015;

interface Props {
  bench: Bench;
  tool: Tool | undefined;
  onTool: (tool: Tool | undefined) => void;
  showing: Showing;
  grid: Grid;
  onGrid: () => void;
  outline: boolean;
  onOutline: () => void;
  selected: string | undefined;
  onSelect: (id: string | undefined) => void;
  turning: boolean;
  measuring: boolean;
  framing: Framing;
  /** Whether the frame can be taken in hand. */
  placing: boolean;
  /** Whether new readings are fitted to the edge under them. */
  fitting: boolean;
  said: string | undefined;
  onSay: (words: string | undefined) => void;
  proposed: ProposalOut | undefined;
}

export function Stage({
  bench,
  tool,
  onTool,
  showing,
  grid,
  onGrid,
  outline,
  onOutline,
  selected,
  onSelect,
  turning,
  measuring,
  framing,
  placing,
  fitting,
  said,
  onSay,
  proposed,
}: Props) {
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
    onTool,
    onSelect,
    onSay,
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
          <path
            d={`M0,0H${size.width}V${size.height}H0Z${framedPath}`}
            fillRule="evenodd"
            fill="var(--stage)"
            fillOpacity={asShot || divided ? 0 : placing ? framing.dim : 0.66}
            pointerEvents="none"
          />
          <path
            d={framedPath}
            stroke="#fffdf8"
            strokeWidth="1.5"
            strokeDasharray={asShot ? "6 5" : undefined}
            pointerEvents="none"
          />
          {outline && !asShot && <ShotOutline asShot={view.asShot} file={file} />}
          <GridLines grid={grid} width={size.width} height={size.height} />
          {!divided &&
            readings.map((reading) => (
              <ReadingOnStage
                key={reading.id}
                reading={reading}
                lit={reading.id === selected}
                onSelect={onSelect}
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
          {placed.length > 0 && (
            <path d={line(placed)} stroke="#fffdf8" strokeWidth="2" strokeDasharray="5 4" />
          )}
          {placed.map(([x, y], index) => (
            <circle
              key={index}
              cx={x}
              cy={y}
              r="5.5"
              fill="#fffdf8"
              stroke="#1d2a38"
              strokeWidth="2"
            />
          ))}
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
        <Flex position="absolute" left="12px" top={divided ? "48px" : "12px"} gap="6px">
          <StageButton onClick={onGrid} label={`Grid: ${GRID_NAMES[grid]}`} hint="G" />
          {!asShot && (
            <>
              <StageButton
                onClick={() => addGuide("level")}
                label="Guide —"
                name="Add a level guide"
                title="A level guide that stands still: drag it onto the picture to hold it against a line"
              />
              <StageButton
                onClick={() => addGuide("plumb")}
                label="Guide |"
                name="Add a plumb guide"
                title="A plumb guide that stands still: drag it onto the picture to hold it against a line"
              />
              <StageButton
                onClick={onOutline}
                label={outline ? "Outline: on" : "Outline: off"}
                hint="O"
                title="The frame of the camera over the corrected picture (O)"
              />
            </>
          )}
        </Flex>
        <Flex position="absolute" right="12px" top="12px" gap="6px" align="center">
          {measuring && showing !== "beside" && (
            <StageButton
              onClick={nextPower}
              label={`Loupe ${power}×`}
              hint="M"
              title="How much the loupe magnifies while an end is in the hand (M)"
            />
          )}
          {bent && !asShot && (
            <StageButton
              onClick={turnOverlay}
              label={`Bending: ${OVERLAY_NAMES[overlay]}`}
              hint="W"
              title="How the picture bends: the mesh, or by how much each part grows or shrinks (W)"
            />
          )}
          <StageButton
            onClick={view.fit}
            label={`${view.fitted ? "fit " : ""}${(view.zoom * 100).toFixed(view.zoom < 0.1 ? 1 : 0)} %`}
            hint="0"
          />
        </Flex>
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
