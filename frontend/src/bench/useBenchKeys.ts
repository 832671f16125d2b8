/* The keys of the bench. A key takes its tool whatever was in the hand; Escape puts it away. */
import { arrow, stepOf, useHeld, useKeys, within } from "../shared/keys";
import type { Tool } from "./stage/useHand";
import type { Acts } from "./useBench";

export const KEY_TOOLS: Record<string, Tool> = {
  l: "level",
  p: "plumb",
  h: "horizon",
  r: "rectangle",
  t: "trace",
  k: "check",
  s: "set_out",
};

interface Keys {
  acts: Acts;
  nudgeDeg: number;
  onTool: (tool: Tool) => void;
  onEscape: () => void;
  onGrid: () => void;
  onOutline: () => void;
  onDelete: () => void;
  onNextEdge: () => void;
  onRead: () => void;
  onInk: () => void;
  onInkAll: () => void;
  onPreview: () => void;
  onStep: (place: number) => void;
  onKeys: () => void;
}

/** Whether B is held, for the picture as shot. */
export function useBenchKeys({
  acts,
  nudgeDeg,
  onTool,
  onEscape,
  onGrid,
  onOutline,
  onDelete,
  onNextEdge,
  onRead,
  onInk,
  onInkAll,
  onPreview,
  onStep,
  onKeys,
}: Keys): boolean {
  useKeys(
    ["z"],
    (event) => {
      event.preventDefault();
      void (event.shiftKey ? acts.redo() : acts.undo());
    },
    { ctrl: true },
  );
  useKeys(["arrowleft", "arrowright"], (event) => {
    const target = event.target as HTMLElement;
    const ownArrows =
      within(event, "[role=radiogroup]") ||
      (within(event, "[role=slider]") && target.getAttribute("aria-label") !== "Roll");
    const way = arrow(event);
    if (ownArrows || !way) return;
    event.preventDefault();
    acts.keepSoon({ do: "turn_by", axis: "roll", deg: way[0] * stepOf(event, nudgeDeg) });
  });
  useKeys(Object.keys(KEY_TOOLS), (event) => {
    const tool = KEY_TOOLS[event.key.toLowerCase()];
    if (!tool) return;
    onTool(tool);
    document.querySelector<HTMLElement>("[aria-label=Stage]")?.focus({ preventScroll: true });
  });
  useKeys(["g"], onGrid);
  useKeys(["o"], onOutline);
  useKeys(["?"], onKeys);
  useKeys(["escape"], onEscape);
  useKeys(["delete", "backspace"], onDelete);
  useKeys(["n"], onNextEdge);
  useKeys(["a"], onRead);
  useKeys(["i"], (event) => (event.shiftKey ? onInk() : onInkAll()));
  useKeys(["v"], onPreview);
  useKeys(["1", "2", "3", "4"], (event) => onStep(Number(event.key) - 1));
  return useHeld("b");
}
