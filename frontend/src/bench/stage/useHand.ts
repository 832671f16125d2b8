/* What the hand does on the stage: draw a reading, move an end, click points, pan, pinch. */
import { useGesture } from "@use-gesture/react";
import { useEffect, useRef, type KeyboardEvent } from "react";
import { TAKES_KEYS, useHeld } from "../../shared/keys";
import type { Bench, Outcome } from "../useBench";
import type { Desk } from "../useDesk";
import type { Point } from "../../picture/geometry";
import { byKeys } from "./byKeys";
import { byPointer } from "./byPointer";
import type { Hold, Settled } from "./tools";
import { useClicked } from "./useClicked";
import type { View, Zoomed } from "./useView";

/** The middle button, among those that are down. */
const MIDDLE = 4;

interface Options {
  bench: Bench;
  view: View;
  desk: Desk;
  /** Else it is only looked at, and any drag moves it. */
  working: boolean;
  hold: Hold | undefined;
  setHold: (hold: Hold | undefined | ((now: Hold | undefined) => Hold | undefined)) => void;
  onPlacedByKey: (focus: string) => void;
}

export function useHand({ bench, view, desk, working, hold, setHold, onPlacedByKey }: Options) {
  const { tool, fitting } = desk;
  const measuring = desk.step === "measure";
  const { acts } = bench;
  const { zoom } = view;
  const space = useHeld("space", { unless: TAKES_KEYS });
  const held = useRef<Hold>(undefined);

  const say = ({ said, refused }: Outcome) => desk.say(refused ?? said, refused !== undefined);
  /* The tool is laid down, what it made is lit up. */
  const layDown = (lit: string) => {
    desk.setTool(undefined);
    desk.select(lit);
  };
  const clicked = useClicked({
    bench,
    view,
    tool,
    fitting,
    onPlaced: (outcome, lit, byKey) => {
      say(outcome);
      if (outcome.refused) return;
      layDown(lit);
      if (byKey) onPlacedByKey(`${lit}-0`);
    },
  });
  const keys = byKeys({
    bench,
    view,
    clicked,
    onPut: (id) => {
      layDown(id);
      onPlacedByKey(`${id}-0`);
    },
  });

  const letGo = () => {
    held.current = undefined;
    setHold(undefined);
    desk.setTurning(false);
    clicked.clear();
    acts.drop();
  };

  /* Escape lets go of what is in the hand, before anyone else hears of it. */
  useEffect(() => {
    if (!hold && !clicked.points.length) return;
    const cancel = (event: globalThis.KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      letGo();
    };
    window.addEventListener("keydown", cancel, true);
    return () => window.removeEventListener("keydown", cancel, true);
  });

  const drawing = byPointer({ bench, view, desk, clicked });

  /* What was in the hand stays drawn until the server has kept it. */
  const land = (what: Settled) => {
    const stays = { ...what };
    setHold(stays);
    void acts.settle().then((outcome) => {
      say(outcome);
      setHold((now) => (now === stays ? undefined : now));
    });
  };

  const end = (now: Hold, tap: boolean) => {
    setHold(undefined);
    if (now.what === "pan") return;
    if (now.what === "turn") {
      desk.setTurning(false);
      if (tap) acts.drop();
      else void acts.settle();
      return;
    }
    if (tap || (now.what === "draw" && !drawing.longEnough(now.points))) {
      acts.drop();
      if (now.what === "draw" && now.kind === "set_out") clicked.click(now.points[0]);
      return;
    }
    // The tool stays in the hand: one line is seldom the last.
    if (now.what === "draw") desk.select(now.id);
    land(now);
  };

  const bind = useGesture(
    {
      onDrag: ({ first, last, tap, event, xy, buttons, pinching }) => {
        if (first) {
          held.current = drawing.begin(
            event.target as Element,
            xy,
            buttons === MIDDLE || space || !working,
          );
          return setHold(held.current);
        }
        if (!held.current || pinching) return;
        if (!last) return setHold((held.current = drawing.move(held.current, xy)));
        end(held.current, tap);
        held.current = undefined;
      },
      onPinch: ({ first, origin, da: [apart], memo }) => {
        if (first) letGo();
        const to = view.at(origin);
        const start = (memo as { apart: number; from: Point; before: Zoomed } | undefined) ?? {
          apart,
          from: to,
          before: { zoom, pan: view.pan },
        };
        view.zoomFrom(start.before, apart / start.apart, start.from, to);
        return start;
      },
    },
    { drag: { pointer: { buttons: [1, 4], keys: false } }, pinch: { pinchOnWheel: false } },
  );

  const onKeyDown = (event: KeyboardEvent<HTMLDivElement>) => {
    const handle = (event.target as Element).closest<SVGElement>("[data-end]");
    if (handle)
      keys.moveEndByKey(event, handle.dataset.reading as string, Number(handle.dataset.end));
    else if (event.key === "Enter" && clicked.endable) void clicked.end();
    else if (event.key === "Enter" && measuring && tool && event.target === event.currentTarget)
      keys.placeByKey(tool);
  };

  return {
    placed: clicked.points,
    cursor:
      hold?.what === "pan" || hold?.what === "turn"
        ? "grabbing"
        : space || !working
          ? "grab"
          : tool && measuring
            ? "crosshair"
            : "default",
    on: {
      ...bind(),
      onKeyDown,
      onDoubleClick: () => clicked.endable && void clicked.end(),
    },
  };
}
