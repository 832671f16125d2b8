/* Dragging and nudging a vial: by hand, ten times finer with Alt, by arrow key when
   it has the focus. */
import { useDrag } from "@use-gesture/react";
import { useRef, useState, type KeyboardEvent } from "react";
import { useOptions } from "../../api/options";
import type { Axis } from "../../api/client";
import { stepOf } from "../../shared/keys";
import { clamp } from "../../picture/geometry";
import type { Bench } from "../useBench";
import { hearMoves } from "./hearMoves";

const FINE = 0.1;

/** The axis of a vial as the server describes it. */
export function useAxis(axis: Axis) {
  const found = useOptions().axes.find((option) => option.axis === axis);
  if (!found) throw new Error(`the server knows no ${axis}`);
  return found;
}

interface Tube {
  bench: Bench;
  axis: Axis;
  width: number;
  endPx: number;
  onTurning: (turning: boolean) => void;
}

export function useTube({ bench, axis, width, endPx, onTurning }: Tube) {
  const { vial_deg: ranges } = useAxis(axis);
  const { nudge_deg: nudge } = useOptions();
  const [dragged, setDragged] = useState<number>();
  const hand = useRef({ x: 0, turned: 0, stop: () => {} });
  const applied = bench.solution.stance[axis].applied_deg;
  const range = dragged ?? ranges.find((some) => Math.abs(applied) <= some) ?? Math.max(...ranges);
  const half = Math.max(width / 2 - endPx, 1);

  /* The same move may be told twice, soon and with the frame: only what is new of it counts. */
  const moveTo = (x: number, fine: boolean) => {
    const { current: held } = hand;
    if (x === held.x) return;
    held.turned += ((x - held.x) / half) * range * (fine ? FINE : 1);
    held.x = x;
    bench.acts.draft({ do: "turn_by", axis, deg: held.turned });
  };
  const drag = useDrag(
    ({ first, last, xy: [x], altKey, currentTarget }) => {
      if (first) {
        const stop = hearMoves(currentTarget, (event) => moveTo(event.clientX, event.altKey));
        hand.current = { x, turned: 0, stop };
        setDragged(range);
        onTurning(true);
      } else moveTo(x, altKey);
      if (!last) return;
      hand.current.stop();
      setDragged(undefined);
      onTurning(false);
      void bench.acts.settle();
    },
    { pointer: { keys: false } },
  );
  const onKeyDown = (event: KeyboardEvent) => {
    const sense = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!sense) return;
    event.preventDefault();
    bench.acts.recordSoon({ do: "turn_by", axis, deg: sense * stepOf(event, nudge) });
  };
  return {
    range,
    at: (deg: number) => width / 2 + clamp(deg / range, -1, 1) * half,
    drag,
    onKeyDown,
  };
}
