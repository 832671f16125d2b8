/* The stage: the picture as large as possible on neutral grey, with readings, frame and a grid that stands still. */
import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Kind, Reading, Recipe } from "../api/client";
import { SvgBox } from "../shared/SvgBox";
import { clamp, css, distance, inverse, mapped, polygon, product, scaling, type Point } from "./geometry";
import { GRID_NAMES, GridLines, type Grid } from "./GridLines";
import { ReadingLine } from "./ReadingMark";
import { hint, Readout, StageButton } from "./StageParts";
import { newReading, withChanged, withEnd, withReading } from "./recipes";
import type { Bench } from "./useBench";
import { useSize, useView } from "./useView";

const Picture = chakra("img");
const Handle = chakra("circle");
const MIN_DRAG_PX = 6;
const KEY_ZOOM = 1.25;

interface Props {
  bench: Bench;
  tool: Kind | undefined;
  onTool: (tool: Kind | undefined) => void;
  asShot: boolean;
  grid: Grid;
  onGrid: () => void;
  selected: string | undefined;
  onSelect: (id: string | undefined) => void;
  turning: boolean;
  measuring: boolean;
  /** Whether new readings are fitted to the edge under them. */
  fitting: boolean;
  said: string | undefined;
  onSay: (words: string | undefined) => void;
}

type Hold = { what: "draw"; reading: Reading; base: Recipe } | { what: "end"; id: string; end: 0 | 1; wasFitted: boolean } | { what: "pan"; last: Point };

export function Stage({ bench, tool, onTool, asShot, grid, onGrid, selected, onSelect, turning, measuring, fitting, said, onSay }: Props) {
  const [ref, size] = useSize<HTMLDivElement>();
  const [hold, setHold] = useState<Hold>();
  const [space, setSpace] = useState(false);
  const { file } = bench.state;
  const view = useView(size, bench.state, bench.shown, asShot, turning || hold !== undefined);
  const focusNext = useRef<string>(undefined);

  const toSource = (event: { clientX: number; clientY: number }): Point => {
    const box = (ref.current as HTMLDivElement).getBoundingClientRect();
    const [x, y] = mapped(inverse(view.source), [event.clientX - box.left, event.clientY - box.top]);
    return inside([x, y]);
  };
  const inside = ([x, y]: Point): Point => [clamp(x, 0, file.width), clamp(y, 0, file.height)];
  const sigmaPx = clamp(1 / view.zoom, 0.02, 1000);

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
      const factor = { "+": KEY_ZOOM, "=": KEY_ZOOM, "-": 1 / KEY_ZOOM }[event.key];
      if (!factor || event.ctrlKey || event.metaKey || (event.target as HTMLElement).closest("input, select, [role=dialog]")) return;
      zoomAt.current(factor, element.clientWidth / 2, element.clientHeight / 2);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    window.addEventListener("keydown", key);
    return () => {
      element.removeEventListener("wheel", wheel);
      window.removeEventListener("keydown", key);
    };
  }, [ref]);

  useEffect(() => {
    const onSpace = (down: boolean) => (event: globalThis.KeyboardEvent) => {
      if (event.code === "Space" && !(event.target as HTMLElement).closest("input, button, a, [role=slider], [role=button]")) setSpace(down);
    };
    const down = onSpace(true);
    const up = onSpace(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);

  /* Escape lets go of what is in the hand, before anyone else hears of it. */
  useEffect(() => {
    if (!hold) return;
    const cancel = (event: globalThis.KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      setHold(undefined);
      bench.drop();
    };
    window.addEventListener("keydown", cancel, true);
    return () => window.removeEventListener("keydown", cancel, true);
  });

  const pointerDown = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button === 1 || (event.button === 0 && space)) {
      event.currentTarget.setPointerCapture(event.pointerId);
      setHold({ what: "pan", last: [event.clientX, event.clientY] });
      event.preventDefault();
      return;
    }
    if (event.button !== 0) return;
    onSay(undefined);
    const handle = (event.target as Element).closest<SVGElement>("[data-end]");
    if (handle) {
      event.currentTarget.setPointerCapture(event.pointerId);
      const id = handle.dataset.reading as string;
      onSelect(id);
      const wasFitted = Boolean(bench.latest().readings.find((r) => r.id === id)?.fitted);
      setHold({ what: "end", id, end: Number(handle.dataset.end) as 0 | 1, wasFitted });
    } else if (tool && measuring) {
      event.currentTarget.setPointerCapture(event.pointerId);
      const start = toSource(event);
      setHold({ what: "draw", reading: newReading(tool, [start, start], view.zoom), base: bench.latest() });
    } else {
      onSelect((event.target as Element).closest<SVGElement>("[data-line]")?.dataset.line);
    }
  };

  const pointerMove = (event: PointerEvent<HTMLDivElement>) => {
    if (hold?.what === "pan") {
      view.panBy(event.clientX - hold.last[0], event.clientY - hold.last[1]);
      setHold({ what: "pan", last: [event.clientX, event.clientY] });
    } else if (hold?.what === "draw") {
      const reading: Reading = { ...hold.reading, points: [hold.reading.points[0], toSource(event)] };
      setHold({ ...hold, reading });
      if (drawnPx(reading) >= MIN_DRAG_PX) bench.preview(withReading(hold.base, reading), { still: true });
    } else if (hold?.what === "end") {
      bench.preview(withEnd(bench.latest(), hold.id, hold.end, toSource(event), sigmaPx), { still: true });
    }
  };

  const pointerUp = () => {
    if (hold?.what === "draw") {
      if (drawnPx(hold.reading) >= MIN_DRAG_PX) {
        onTool(undefined);
        onSelect(hold.reading.id);
        void place(hold.reading, fitting, `${hold.reading.kind} reading added`);
      } else bench.drop();
    } else if (hold?.what === "end") {
      const moved = bench.latest().readings.find((r) => r.id === hold.id);
      if (moved) void place(moved, hold.wasFitted, "reading moved");
    }
    setHold(undefined);
  };

  /* Enter a reading that was just placed by hand, fitted to the edge under it if that is wanted. */
  const place = async (drawn: Reading, fit: boolean, what: string) => {
    let reading = drawn;
    if (fit) {
      const found = await bench.fitted(drawn);
      reading = found.reading;
      onSay(reading.fitted ? undefined : found.said);
    }
    const recipe = bench.latest();
    const known = recipe.readings.some((r) => r.id === reading.id);
    await bench.commit(known ? withChanged(recipe, reading) : withReading(recipe, reading), what);
  };

  const drawnPx = (reading: Reading) => distance(reading.points[0], reading.points[1]) * view.zoom;

  const keyDown = (event: KeyboardEvent<HTMLDivElement>) => {
    const handle = (event.target as Element).closest<SVGElement>("[data-end]");
    if (handle) moveEndByKey(event, handle.dataset.reading as string, Number(handle.dataset.end) as 0 | 1);
    else if (event.key === "Enter" && tool && event.target === event.currentTarget) placeByKey(tool);
  };

  const moveEndByKey = (event: KeyboardEvent, id: string, end: 0 | 1) => {
    const direction = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const reading = bench.latest().readings.find((r) => r.id === id);
    if (!direction || !reading || event.ctrlKey) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? 20 : event.altKey ? 0.1 : 1;
    const [x, y] = reading.points[end];
    const point = inside([x + (direction[0] as number) * step, y + (direction[1] as number) * step]);
    bench.commitSoon(withEnd(bench.latest(), id, end, point, sigmaPx), "reading moved", { still: true });
  };

  const placeByKey = (kind: Kind) => {
    const { width: w, height: h } = file;
    const points: [Point, Point] = kind === "level" ? [[w * 0.2, h / 2], [w * 0.8, h / 2]] : [[w / 2, h * 0.2], [w / 2, h * 0.8]];
    const reading = newReading(kind, points, view.zoom);
    onTool(undefined);
    onSelect(reading.id);
    focusNext.current = `${reading.id}-0`;
    void bench.commit(withReading(bench.latest(), reading), `${kind} reading added`);
  };
  useEffect(() => {
    const target = focusNext.current && document.getElementById(`end-${focusNext.current}`);
    if (!target) return;
    focusNext.current = undefined;
    target.focus();
  });

  const drawn = hold?.what === "draw" ? [...hold.base.readings, hold.reading] : bench.recipe.readings;
  // Only while measuring: afterwards the picture itself is judged.
  const readings = measuring ? drawn : [];
  const { frame } = bench.shown;
  const corners: Point[] = asShot
    ? bench.shown.frame_source.map((p) => mapped(view.source, p))
    : [[frame.x, frame.y], [frame.x + frame.width, frame.y], [frame.x + frame.width, frame.y + frame.height], [frame.x, frame.y + frame.height]].map((p) => mapped(view.plane, p as Point));
  const proxy = product(view.source, scaling(1 / bench.state.proxy_scale));
  const inHand = hold && hold.what !== "pan" ? bench.solution.readings.find((r) => r.id === (hold.what === "draw" ? hold.reading.id : hold.id)) : undefined;
  const empty = readings.length === 0 && !hold;

  return (
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
      cursor={hold?.what === "pan" ? "grabbing" : space ? "grab" : tool && measuring ? "crosshair" : "default"}
      onPointerDown={pointerDown}
      onPointerMove={pointerMove}
      onPointerUp={pointerUp}
      onPointerCancel={pointerUp}
      onKeyDown={keyDown}
      _focusVisible={{ outlineOffset: "-3px" }}
    >
      <Picture
        src={`/api/pictures/${bench.state.id}/proxy.jpg`}
        alt={`${file.name}, ${asShot ? "as shot" : "corrected"}`}
        draggable={false}
        position="absolute"
        top="0"
        left="0"
        maxWidth="none"
        transformOrigin="0 0"
        // A layer of its own makes a turn cheap to draw; at rest the picture is drawn with all the smoothing there is.
        willChange={turning ? "transform" : undefined}
        width={`${Math.round(file.width * bench.state.proxy_scale)}px`}
        height={`${Math.round(file.height * bench.state.proxy_scale)}px`}
        style={{ transform: css(proxy) }}
      />
      <SvgBox position="absolute" inset="0" width="100%" height="100%" fill="none">
        <path d={`M0,0H${size.width}V${size.height}H0Z${polygon(corners)}`} fillRule="evenodd" fill="var(--stage)" fillOpacity={asShot ? 0 : 0.66} pointerEvents="none" />
        <path d={polygon(corners)} stroke="#fffdf8" strokeWidth="1.5" strokeDasharray={asShot ? "6 5" : undefined} pointerEvents="none" />
        <GridLines grid={grid} width={size.width} height={size.height} />
        {readings.map((reading, index) => {
          const ends = reading.points.map((p) => mapped(view.source, p)) as [Point, Point];
          return (
            <g key={reading.id}>
              <path d={`M${ends[0].join(",")}L${ends[1].join(",")}`} stroke="transparent" strokeWidth="16" data-line={reading.id} />
              <ReadingLine kind={reading.kind} ends={ends} lit={reading.id === selected} />
              {ends.map(([x, y], end) => (
                <Handle
                  key={end}
                  id={`end-${reading.id}-${end}`}
                  data-reading={reading.id}
                  data-end={end}
                  role="button"
                  tabIndex={0}
                  aria-label={`End ${end + 1} of reading ${index + 1}`}
                  cx={x}
                  cy={y}
                  r={reading.id === selected ? 7 : 5.5}
                  fill="onPicture"
                  stroke={`${reading.kind}Deep`}
                  strokeWidth="2"
                  cursor="move"
                  onFocus={() => onSelect(reading.id)}
                  _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
                />
              ))}
            </g>
          );
        })}
        {inHand && hold && hold.what !== "pan" && <Readout point={mapped(view.source, endInHand(hold, readings))} text={inHand.words} size={size} />}
      </SvgBox>
      <Flex position="absolute" left="12px" top="12px" gap="6px">
        <StageButton onClick={onGrid} label={`Grid: ${GRID_NAMES[grid]}`} hint="G" />
      </Flex>
      <Flex position="absolute" right="12px" top="12px" gap="6px" align="center">
        {asShot && (
          <Text bg="inkOnPicture" color="onPicture" px="10px" py="5px" borderRadius="4px" fontWeight="600">
            as shot
          </Text>
        )}
        <StageButton onClick={view.fit} label={`${view.fitted ? "fit " : ""}${(view.zoom * 100).toFixed(view.zoom < 0.1 ? 1 : 0)} %`} hint="0" id="fit" />
      </Flex>
      {measuring && (said || tool || empty) && (
        <Text position="absolute" bottom="14px" left="50%" transform="translateX(-50%)" bg="inkOnPicture/85" color="onPicture" px="14px" py="7px" borderRadius="4px" whiteSpace="nowrap" pointerEvents="none" role="status">
          {said ?? hint(tool, empty)}
        </Text>
      )}
    </Box>
  );
}

function endInHand(hold: Exclude<Hold, { what: "pan" }>, readings: Reading[]): Point {
  if (hold.what === "draw") return hold.reading.points[1];
  const reading = readings.find((r) => r.id === hold.id);
  return reading ? reading.points[hold.end] : [0, 0];
}
