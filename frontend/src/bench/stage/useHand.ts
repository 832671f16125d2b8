/* What the hand does on the stage: draw a reading, move an end, click points, pan, pinch. */
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import { TAKES_KEYS, useHeld } from "../../shared/keys";
import type { Bench, Outcome } from "../useBench";
import type { Desk } from "../useDesk";
import { byKeys } from "./byKeys";
import { byPointer } from "./byPointer";
import type { KeyedEnd } from "./ReadingOnStage";
import type { Hold, Settled } from "./tools";
import { useClicked } from "./useClicked";
import { useGrip } from "./useGrip";
import type { View } from "./useView";

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

export function useHand(options: Options) {
  const { bench, view, desk, working, hold, setHold, onPlacedByKey } = options;
  const { tool, fitting } = desk;
  const measuring = desk.step === "measure";
  const { acts } = bench;
  const space = useHeld("space", { unless: TAKES_KEYS });
  const held = useRef<Hold>(undefined);
  const [touched, setTouched] = useState<KeyedEnd>();

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

  const drop = () => {
    held.current = undefined;
    setHold(undefined);
    desk.setTurning(false);
    acts.drop();
  };
  const letGo = () => {
    drop();
    clicked.clear();
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
    if (now.what === "click") return clicked.click(now.at);
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

  const grip = useGrip({
    view,
    held,
    begin: (...press) => {
      setTouched(undefined);
      setHold((held.current = drawing.begin(...press)));
    },
    move: (xy) => {
      if (held.current) setHold((held.current = drawing.move(held.current, xy)));
    },
    end: (tap, touched) => {
      const now = held.current;
      held.current = undefined;
      if (!now) return;
      if (touched && now.what === "end") setTouched({ id: now.id, end: now.end });
      end(now, tap);
    },
    drop,
    isBegun: drawing.isBegun,
    panning: (buttons) => buttons === MIDDLE || space || !working,
  });

  const onKeyDown = (event: KeyboardEvent<HTMLDivElement>) => {
    const handle = (event.target as Element).closest<SVGElement>("[data-end]");
    if (handle)
      keys.moveEndByKey(event, handle.dataset.reading as string, Number(handle.dataset.end));
    else if (event.key === "Enter" && clicked.endable) void clicked.end();
    else if (event.key === "Enter" && measuring && tool && event.target === event.currentTarget)
      keys.placeByKey(tool);
  };

  const isThere = measuring && bench.recipe.readings.some(({ id }) => id === touched?.id);
  return {
    placed: clicked.points,
    foot: {
      /** The end that a finger or a pen let go last, to be moved by pixels. */
      touched: isThere ? touched : undefined,
      leaveTouched: () => setTouched(undefined),
      /** Ends what is clicked point by point, where there are points enough. */
      endPlaced: clicked.endable ? () => void clicked.end() : undefined,
      placed: clicked.points.length,
    },
    cursor:
      hold?.what === "pan" || hold?.what === "turn"
        ? "grabbing"
        : space || !working
          ? "grab"
          : tool && measuring
            ? "crosshair"
            : "default",
    on: {
      ...grip,
      onKeyDown,
      onDoubleClick: () => clicked.endable && void clicked.end(),
    },
  };
}
