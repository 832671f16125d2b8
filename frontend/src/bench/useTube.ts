/* Dragging and nudging a vial: coarse by hand, ten times finer with Shift or Alt, by arrow key when it has the focus. */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Axis } from "../api/client";
import { clamp } from "./geometry";
import { turnedBy } from "./recipes";
import type { Bench } from "./useBench";

const FINE = 0.1;

/** How far one press of an arrow key turns. */
export const nudgeOf = (event: { shiftKey: boolean; altKey: boolean }): number => (event.shiftKey ? 1 : event.altKey ? 0.01 : 0.1);

export function useTube(bench: Bench, axis: Axis, ranges: number[], width: number, endPx: number, onTurning: (turning: boolean) => void) {
  const [dragged, setDragged] = useState<number>();
  const lastX = useRef(0);
  const applied = bench.solution.stance[axis].applied_deg;
  const range = dragged ?? ranges.find((some) => Math.abs(applied) <= some) ?? (ranges.at(-1) as number);
  const half = Math.max(width / 2 - endPx, 1);
  const what = axis === "roll" ? "turned by hand" : `${axis} by hand`;

  const up = () => {
    if (dragged === undefined) return;
    setDragged(undefined);
    onTurning(false);
    if (bench.acts.latest() !== bench.state.recipe) void bench.acts.commit(bench.acts.latest(), what);
  };
  const hands = {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      lastX.current = event.clientX;
      setDragged(range);
      onTurning(true);
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      if (dragged === undefined) return;
      const turn = ((event.clientX - lastX.current) / half) * dragged * (event.shiftKey || event.altKey ? FINE : 1);
      lastX.current = event.clientX;
      bench.acts.preview(turnedBy(bench.acts.latest(), axis, turn));
    },
    onPointerUp: up,
    onPointerCancel: up,
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const sense = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!sense) return;
    event.preventDefault();
    bench.acts.commitSoon(turnedBy(bench.acts.latest(), axis, sense * nudgeOf(event)), what);
  };
  return { range, at: (deg: number) => width / 2 + clamp(deg / range, -1, 1) * half, hands, onKeyDown };
}
