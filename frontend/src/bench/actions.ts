/* Everything that can be done at the bench, by its name, its key, where it lives, and what people
   call it besides. */
import { alike, inSentence, t } from "../shared/words";
import { COMPARED, SHOWINGS } from "./stage/showing";
import { TOOLS } from "./book/toolList";
import type { FrameTool } from "./frame/useFraming";
import { STEP_NAMES, STEPS, type Step } from "./steps";
import { SHOWING_KEYS, SHOWING_WORDS, STEP_WORDS, TOOL_WORDS } from "./actionWords";
import { otherLanguage } from "./otherLanguage";
import type { Bench } from "./useBench";
import type { Desk } from "./useDesk";
import { turnWholeScreen } from "./wholeScreen";

export interface Action {
  name: string;
  key?: string | undefined;
  /** Where it is on the screen. */
  where: string;
  /** What else it is called, for finding it. */
  also: string[];
  act: () => void;
}

export interface Pages {
  keys: () => void;
  go: (address: string) => void;
}

/** What acts are done on. */
export interface Acting {
  bench: Bench;
  desk: Desk;
  pages: Pages;
}

const AXES = ["roll", "lean", "swing"] as const;

/** Taking back what was added by hand, of each axis that has it. */
function putBack({ acts, solution }: Bench): Action[] {
  const trimmed = AXES.filter((axis) => solution.stance[axis].trimmed);
  return trimmed.map((axis) => ({
    name: t("Take the {axis} back to what the readings say", { axis: t(axis) }),
    where: t("the strip: double click on its vial"),
    also: [...alike(t("reset, trim")), axis],
    act: () => void acts.record({ do: "reset_trim", axis }),
  }));
}

export function actionsOf(bench: Bench, desk: Desk, pages: Pages): Action[] {
  const { acts, state } = bench;
  const take = (step: Step, tool: FrameTool) => {
    desk.setStep(step);
    desk.framing.setTool(tool);
  };
  return [
    {
      name: t("Read the picture"),
      key: "A",
      where: t("Measure"),
      also: alike(t("automatic, auto, straighten, propose, detect")),
      act: () => desk.pencil.ask(desk.pencil.want),
    },
    ...TOOLS.map(({ tool, name, key }) => ({
      name: tool === "straight" ? t("Draw a line") : t("Draw: {name}", { name: inSentence(name) }),
      key,
      where: t("Measure"),
      also: TOOL_WORDS[tool] ?? [],
      act: () => desk.takeTool(tool),
    })),
    ...STEPS.map((step, place) => ({
      name: t("Step: {step}", { step: STEP_NAMES[step] }),
      key: String(place + 1),
      where: t("the top line"),
      also: STEP_WORDS[step],
      act: () => desk.setStep(step),
    })),
    ...[...SHOWINGS, ...COMPARED].map(([showing, name]) => ({
      name: t("Show: {name}", { name: inSentence(name) }),
      key: SHOWING_KEYS[showing],
      where: t("the top line"),
      also: SHOWING_WORDS[showing] ?? [],
      act: () => desk.setShowing(showing),
    })),
    {
      name: t("Undo"),
      key: "Ctrl Z",
      where: t("the top line"),
      also: alike(t("take back, revert")),
      act: () => void acts.undo(),
    },
    {
      name: t("Redo"),
      key: "Ctrl Shift Z",
      where: t("the top line"),
      also: alike(t("again")),
      act: () => void acts.redo(),
    },
    {
      name: t("Start over"),
      where: t("here; undo brings everything back"),
      also: alike(t("reset, as shot, original, clear, begin anew")),
      act: () => void acts.record({ do: "start_over" }),
    },
    ...putBack(bench),
    {
      name: t("By eye: the calmest of five turns"),
      key: "E",
      where: t("By eye, under the tools of Measure"),
      also: alike(t("straighten, no line, no horizon, guess, choose")),
      act: () => desk.setJudging(true),
    },
    {
      name: desk.pulling ? t("Let go of the corners") : t("Pull the corners by eye"),
      key: "Q",
      where: t("By eye, under the tools of Measure"),
      also: alike(t("keystone, perspective, distort, skew, four corners, free transform")),
      act: desk.togglePulling,
    },
    {
      name: t("Mend a place with the brush"),
      where: t("Corners"),
      also: alike(t("repair, retouch, remove, clone, spot, bin, wire")),
      act: () => take("corners", "mend"),
    },
    {
      name: t("Mark something round or square"),
      where: t("Frame, under the shape"),
      also: alike(t("squashed, stretched, circle, proportion, aspect, egg")),
      act: () => take("frame", "true_shape"),
    },
    ...(bench.report.white
      ? [
          {
            name: t("Choose a grey spot"),
            where: t("Lens, under Light"),
            also: alike(t("white balance, colour temperature, kelvin, daylight, cast, warm")),
            act: () => take("lens", "grey"),
          },
        ]
      : []),
    {
      name: t("Grid"),
      key: "G",
      where: t("over the picture"),
      also: alike(t("lines, raster")),
      act: desk.turnGrid,
    },
    {
      name: t("Outline of the camera's frame"),
      key: "O",
      where: t("over the picture"),
      also: alike(t("border, as shot")),
      act: desk.toggleOutline,
    },
    {
      name: t("Nothing but the picture"),
      key: "F",
      where: t("this key"),
      also: alike(t("full screen, hide, panels, clean")),
      act: desk.toggleBare,
    },
    {
      name: t("The whole screen"),
      key: "Shift F",
      where: t("this key"),
      also: alike(t("full screen, maximise")),
      act: turnWholeScreen,
    },
    {
      name: t("Versions"),
      where: t("over the column"),
      also: alike(t("crops, copies, variants")),
      act: () => pages.go(`/pictures/${state.id}/versions`),
    },
    {
      name: t("Ledger"),
      where: t("over the column"),
      also: alike(t("history, steps, entries")),
      act: () => pages.go(`/pictures/${state.id}/history`),
    },
    {
      name: t("Contact sheet"),
      where: t("the mark at the top left"),
      also: alike(t("pictures, set, batch, back")),
      act: () => pages.go(`/sets/${state.set_id}`),
    },
    ...otherLanguage(),
    {
      name: t("Keys"),
      key: "?",
      where: t("the top line"),
      also: alike(t("shortcuts, help")),
      act: pages.keys,
    },
  ];
}
