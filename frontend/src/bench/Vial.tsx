/* The vial: a long graduated tube. Its bubble says how the picture is turned; drag it, nudge it by key, or type the tilt. */
import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useRef, useState, type PointerEvent } from "react";
import { SvgBox } from "../shared/SvgBox";
import { clamp } from "./geometry";
import { withTrim } from "./recipes";
import type { Bench } from "./useBench";
import { useSize } from "./useView";

const Tube = chakra("div");
const RANGES_DEG = [5, 15, 45, 180];
const FINE = 0.1;
const END_PX = 30;

const rangeFor = (rollDeg: number) => RANGES_DEG.find((range) => Math.abs(rollDeg) <= range) ?? 180;

export function Vial({ bench, onTurning }: { bench: Bench; onTurning: (turning: boolean) => void }) {
  const [ref, { width }] = useSize<HTMLDivElement>();
  const [drag, setDrag] = useState<{ range: number }>();
  const lastX = useRef(0);
  const { stance } = bench.solution;
  const range = drag?.range ?? rangeFor(stance.roll_deg);
  const half = Math.max(width / 2 - END_PX, 1);
  const at = (deg: number) => width / 2 + clamp(deg / range, -1, 1) * half;

  const down = (event: PointerEvent<HTMLDivElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    lastX.current = event.clientX;
    setDrag({ range });
    onTurning(true);
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    if (!drag) return;
    const turn = ((event.clientX - lastX.current) / half) * drag.range * (event.shiftKey || event.altKey ? FINE : 1);
    lastX.current = event.clientX;
    bench.preview(withTrim(bench.latest(), bench.latest().trim.roll_deg + turn));
  };
  const up = () => {
    if (!drag) return;
    setDrag(undefined);
    onTurning(false);
    if (bench.latest() !== bench.state.recipe) void bench.commit(bench.latest(), "turned by hand");
  };

  const step = range / 5;
  const marks = Array.from({ length: 51 }, (_, i) => (i - 25) * (range / 25));
  return (
    <Box px="16px" pt="8px" pb="6px" flex="1" minWidth="0">
      <Flex justify="space-between" color="inkSoft" fontSize="12px" mb="4px">
        <span>↺ turned anticlockwise</span>
        <Text as="span" color="ink" fontWeight="600" fontFamily="mono" aria-live="polite">
          {stance.words}
          {stance.sigma_deg !== null && (
            <Text as="span" color="inkSoft" fontWeight="400">{` ± ${stance.sigma_deg.toFixed(2)}°`}</Text>
          )}
        </Text>
        <span>turned clockwise ↻</span>
      </Flex>
      <Tube
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label="Roll"
        aria-valuemin={-180}
        aria-valuemax={180}
        aria-valuenow={Number(stance.roll_deg.toFixed(2))}
        aria-valuetext={stance.words}
        title="Drag to turn the picture; with Shift or Alt ten times finer. Arrow keys nudge."
        cursor="ew-resize"
        touchAction="none"
        borderRadius="16px"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
      >
        <SvgBox width="100%" height="62px" display="block" color="ink">
          <rect x="1" y="1" width={Math.max(width - 2, 0)} height="30" rx="15" fill="var(--tube)" stroke="currentColor" strokeWidth="1.2" />
          <path d={`M${width / 2 - 21},1v30M${width / 2 + 21},1v30`} stroke="currentColor" strokeWidth="1" />
          <g transform={`translate(${at(stance.roll_deg)} 0)`}>
            <ellipse cy="15" rx="17" ry="9.5" fill="var(--bubble)" stroke="var(--rim)" />
            <ellipse cx="-4" cy="11.5" rx="6" ry="2" fill="#fff" fillOpacity=".6" />
          </g>
          {marks.map((deg, i) => (
            <path key={i} d={`M${at(deg)},37v${i % 5 === 0 ? 9 : 4}`} stroke="var(--soft)" />
          ))}
          {Array.from({ length: 11 }, (_, i) => (i - 5) * step).map((deg) => (
            <text key={deg} x={at(deg)} y="59" textAnchor="middle" fontSize="11" fill="var(--soft)" fontFamily="IBM Plex Mono, monospace">
              {Math.abs(deg)}°
            </text>
          ))}
        </SvgBox>
      </Tube>
    </Box>
  );
}
