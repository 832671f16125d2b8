/* The keys of the bench. A key takes its tool whatever was in the hand; Escape puts it away. */
import { arrow, stepOf, useHeld, useKeys, within } from "../shared/keys";
import { TOOLS } from "./book/toolList";
import { focusStage } from "./stage/tools";
import { useOptions } from "../api/options";
import { STEPS } from "./steps";
import type { Acts } from "./useBench";
import type { Desk } from "./useDesk";
import { turnWholeScreen } from "./wholeScreen";

const TOOL_KEYS = TOOLS.filter(({ key }) => key.length === 1).map(({ key }) => key.toLowerCase());

/** By how much the loupe runs along a line at a press, in shares of it. */
const ALONG_STEP = 0.04;

/** The tool of a key; with Shift another one, where there is one. */
function toolOf({ key, shiftKey }: KeyboardEvent) {
  const plain = key.toUpperCase();
  const wanted = shiftKey ? `⇧${plain}` : plain;
  return (TOOLS.find((tool) => tool.key === wanted) ?? TOOLS.find((tool) => tool.key === plain))
    ?.tool;
}

/** Whether B is held, for the picture as shot. */
export function useBenchKeys(acts: Acts, desk: Desk, onKeys: () => void): boolean {
  const { nudge_deg: nudgeDeg } = useOptions();
  const { pencil, framing, selected, isProposed, step } = desk;
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
      (within(event, "[role=slider]") && target.dataset.axis !== "roll");
    const way = arrow(event);
    if (ownArrows || !way) return;
    event.preventDefault();
    acts.recordSoon({ do: "turn_by", axis: "roll", deg: way[0] * stepOf(event, nudgeDeg) });
  });
  useKeys(TOOL_KEYS, (event) => {
    const tool = toolOf(event);
    if (!tool) return;
    desk.takeTool(tool);
    focusStage();
  });
  useKeys(["g"], desk.turnGrid);
  useKeys(["f"], ({ shiftKey }) => (shiftKey ? turnWholeScreen() : desk.toggleBare()));
  useKeys(["o"], desk.toggleOutline);
  useKeys(["?"], onKeys);
  useKeys(["escape"], () => {
    desk.showAll();
    desk.stopPulling();
    desk.lookAway();
    desk.setTool(undefined);
    framing.setTool(undefined);
  });
  useKeys(["c"], desk.toggleFinished);
  useKeys(["e"], () => desk.setJudging(true));
  useKeys(["q"], desk.togglePulling);
  useKeys([",", "."], ({ key }) => {
    if (selected && step === "measure")
      desk.lookAlong((desk.along ?? 0) + (key === "." ? ALONG_STEP : -ALONG_STEP));
  });
  useKeys(["delete", "backspace"], desk.removeSelected);
  useKeys(["x"], () => desk.turnOver(selected));
  useKeys(["n"], () => selected && step === "measure" && void desk.nextEdge(selected));
  useKeys(["a"], () => pencil.ask(pencil.want));
  useKeys(["i"], (event) => {
    if (!event.shiftKey) pencil.inkAll();
    else if (isProposed && selected) pencil.ink(selected);
  });
  useKeys(["v"], () => pencil.found?.take && pencil.setPreviewing(!pencil.previewing));
  useKeys(
    STEPS.map((_, place) => String(place + 1)),
    (event) => {
      const chosen = STEPS[Number(event.key) - 1];
      if (chosen) desk.setStep(chosen);
    },
  );
  return useHeld("b");
}
