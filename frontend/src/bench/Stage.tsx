/* The stage: the picture as large as possible on neutral grey, with readings, frame, guides and a grid that stands still. */
import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { Reading, SolvedReading } from "../api/client";
import { SvgBox } from "../shared/SvgBox";
import { AsShotPane, DividedShot, ProxyPicture, ShotOutline, Tag, type Showing } from "./Compare";
import { CrispView } from "./CrispView";
import { FilledView } from "./FilledView";
import { FRAME_HINTS, FrameHands } from "./FrameHands";
import { mapped, polygon, type Point } from "./geometry";
import { GRID_NAMES, GridLines, type Grid } from "./GridLines";
import { Guides, type Guide } from "./Guides";
import { Loupe, POWERS } from "./Loupe";
import { ReadingOnStage, type KeyedEnd } from "./ReadingOnStage";
import { handPoints, newId } from "./recipes";
import { hint, Readout, StageButton, StageWords } from "./StageParts";
import type { Bench } from "./useBench";
import type { Framing } from "./useFraming";
import { useHand, type Hold, type Tool } from "./useHand";
import { useSize, useView } from "./useView";

const KEY_ZOOM = 1.25;

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
}

export function Stage({ bench, tool, onTool, showing, grid, onGrid, outline, onOutline, selected, onSelect, turning, measuring, framing, placing, fitting, said, onSay }: Props) {
  const [ref, size] = useSize<HTMLDivElement>();
  const [hold, setHold] = useState<Hold>();
  const [power, setPower] = useState(8);
  const [guides, setGuides] = useState<Guide[]>([]);
  const [divider, setDivider] = useState(0.5);
  const [byKey, setByKey] = useState<KeyedEnd>();
  const focusNext = useRef<string>(undefined);
  const { file } = bench.state;
  const [framed, setFramed] = useState(false);
  const asShot = showing === "shot";
  const view = useView(size, bench.state, bench.shown, asShot, turning || framed || hold !== undefined);
  const hand = useHand({
    bench,
    view,
    box: () => (ref.current as HTMLDivElement).getBoundingClientRect(),
    tool,
    onTool,
    onSelect,
    onSay,
    measuring,
    fitting,
    hold,
    setHold,
    onPlacedByKey: (focus) => {
      focusNext.current = focus;
    },
  });

  /* Wheel listeners must not be passive, or the page would scroll too. */
  const zoomAt = useRef(view.zoomAt);
  useEffect(() => {
    zoomAt.current = view.zoomAt;
  });
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      zoomAt.current(Math.exp(-event.deltaY * 0.0015), event.clientX - box.left, event.clientY - box.top);
    };
    const key = (event: globalThis.KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || (event.target as HTMLElement).closest("input, select, [role=dialog]")) return;
      if (event.key.toLowerCase() === "m") setPower((now) => POWERS[(POWERS.indexOf(now) + 1) % POWERS.length] as number);
      const factor = { "+": KEY_ZOOM, "=": KEY_ZOOM, "-": 1 / KEY_ZOOM }[event.key];
      if (factor) zoomAt.current(factor, element.clientWidth / 2, element.clientHeight / 2);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    window.addEventListener("keydown", key);
    return () => {
      element.removeEventListener("wheel", wheel);
      window.removeEventListener("keydown", key);
    };
  }, [ref]);
  useEffect(() => {
    const target = focusNext.current && document.getElementById(`end-${focusNext.current}`);
    if (!target) return;
    focusNext.current = undefined;
    target.focus();
  });

  const addGuide = (direction: Guide["direction"]) => setGuides((now) => [...now, { id: newId(), direction, at: direction === "level" ? [0.5, 0.4] : [0.4, 0.5] }]);

  const drawn = hold?.what === "draw" ? [...hold.base.readings, hold.reading] : bench.recipe.readings;
  // Only while measuring: afterwards the picture itself is judged.
  const readings = measuring ? drawn.filter((reading) => !reading.hidden) : [];
  const { frame } = bench.shown;
  const corners: Point[] = asShot
    ? bench.shown.frame_source.map((p) => view.toStage(p))
    : [[frame.x, frame.y], [frame.x + frame.width, frame.y], [frame.x + frame.width, frame.y + frame.height], [frame.x, frame.y + frame.height]].map((p) => mapped(view.plane, p as Point));
  const inHand = hold && hold.what !== "pan" ? hold : undefined;
  const solvedInHand = inHand && bench.solution.readings.find((r) => r.id === (inHand.what === "draw" ? inHand.reading.id : inHand.id));
  const empty = drawn.length === 0 && !hold;
  const looked = inHand ? endInHand(inHand, drawn) : byKey && pointOf(drawn, byKey.id, byKey.end);
  const placed = hand.corners.map(view.toStage);

  return (
    <Flex flex="1" minWidth="0">
      {showing === "beside" && <AsShotPane bench={bench} asShot={view.asShot} />}
      <Box
        ref={ref}
        role="group"
        aria-label="Stage"
        tabIndex={0}
        position="relative"
        flex="1"
        minWidth="0"
        overflow="hidden"
        bg="stage"
        touchAction="none"
        userSelect="none"
        cursor={hold?.what === "pan" ? "grabbing" : hand.space ? "grab" : tool && measuring ? "crosshair" : "default"}
        {...hand.on}
        _focusVisible={{ outlineOffset: "-3px" }}
      >
        <ProxyPicture bench={bench} source={view.source} alt={`${file.name}, ${asShot ? "as shot" : "corrected"}`} moving={turning} straight={!asShot} />
        {bench.atRest && !turning && !hold && !asShot && size.width > 0 && <CrispView bench={bench} view={view} size={size} />}
        {!asShot && showing !== "divided" && <FilledView bench={bench} view={view} size={size} />}
        {showing === "divided" && <DividedShot bench={bench} asShot={view.asShot} size={size} share={divider} onShare={setDivider} />}
        <SvgBox position="absolute" inset="0" width="100%" height="100%" fill="none" pointerEvents={showing === "divided" ? "none" : undefined}>
          <path d={`M0,0H${size.width}V${size.height}H0Z${polygon(corners)}`} fillRule="evenodd" fill="var(--stage)" fillOpacity={asShot || showing === "divided" ? 0 : placing ? framing.dim : 0.66} pointerEvents="none" />
          <path d={polygon(corners)} stroke="#fffdf8" strokeWidth="1.5" strokeDasharray={asShot ? "6 5" : undefined} pointerEvents="none" />
          {outline && !asShot && <ShotOutline asShot={view.asShot} file={file} />}
          <GridLines grid={grid} width={size.width} height={size.height} />
          {showing !== "divided" &&
            readings.map((reading) => (
              <ReadingOnStage key={reading.id} reading={reading} number={drawn.indexOf(reading) + 1} toStage={view.toStage} lit={reading.id === selected} onSelect={onSelect} onKeyed={setByKey} />
            ))}
          {placed.length > 0 && <path d={`M${placed.map((p) => p.join(",")).join("L")}`} stroke="#fffdf8" strokeWidth="2" strokeDasharray="5 4" />}
          {placed.map(([x, y], index) => (
            <circle key={index} cx={x} cy={y} r="5.5" fill="#fffdf8" stroke="#1d2a38" strokeWidth="2" />
          ))}
          {solvedInHand && looked && <Readout point={view.toStage(looked)} text={readoutOf(solvedInHand)} size={size} />}
          {placing && !asShot && showing !== "divided" && <FrameHands bench={bench} view={view} framing={framing} size={size} onHold={setFramed} />}
          {!asShot && showing !== "divided" && <Guides guides={guides} onChange={setGuides} bench={bench} view={view} size={size} />}
        </SvgBox>
        {looked && measuring && <Loupe pictureId={bench.state.id} file={file} point={looked} at={view.toStage(looked)} source={view.source} size={size} power={power} />}
        <Flex position="absolute" left="12px" top={showing === "divided" ? "48px" : "12px"} gap="6px">
          <StageButton onClick={onGrid} label={`Grid: ${GRID_NAMES[grid]}`} hint="G" />
          {!asShot && (
            <>
              <StageButton onClick={() => addGuide("level")} label="Guide —" name="Add a level guide" title="A level guide that stands still: drag it onto the picture to hold it against a line" />
              <StageButton onClick={() => addGuide("plumb")} label="Guide |" name="Add a plumb guide" title="A plumb guide that stands still: drag it onto the picture to hold it against a line" />
              <StageButton onClick={onOutline} label={outline ? "Outline: on" : "Outline: off"} hint="O" title="The frame of the camera over the corrected picture (O)" />
            </>
          )}
        </Flex>
        <Flex position="absolute" right="12px" top="12px" gap="6px" align="center">
          {measuring && showing !== "beside" && <StageButton onClick={() => setPower((now) => POWERS[(POWERS.indexOf(now) + 1) % POWERS.length] as number)} label={`Loupe ${power}×`} hint="M" title="How much the loupe magnifies while an end is in the hand (M)" />}
          <StageButton onClick={view.fit} label={`${view.fitted ? "fit " : ""}${(view.zoom * 100).toFixed(view.zoom < 0.1 ? 1 : 0)} %`} hint="0" id="fit" />
        </Flex>
        {asShot && <Tag left="102px">as shot</Tag>}
        {placing && framing.tool && !asShot && (
          <StageWords>
            {FRAME_HINTS[framing.tool]}
          </StageWords>
        )}
        {measuring && (said || tool || empty) && (
          <StageWords>
            {said ?? hint(tool, empty, hand.corners.length)}
          </StageWords>
        )}
      </Box>
    </Flex>
  );
}

function endInHand(hold: Exclude<Hold, { what: "pan" }>, readings: Reading[]): Point | undefined {
  return hold.what === "draw" ? hold.reading.points[1] : pointOf(readings, hold.id, hold.end);
}

function pointOf(readings: Reading[], id: string, end: number): Point | undefined {
  const reading = readings.find((r) => r.id === id);
  return reading && handPoints(reading)[end];
}

const readoutOf = (reading: SolvedReading): string => (reading.kind === "trace" ? `sag ${(reading.sag_before_px ?? 0).toFixed(1)} px` : reading.words);
