/* Everything that can be done at the bench, by its name, its key, where it lives, and what people
   call it besides. */
import { COMPARED, SHOWINGS } from "./stage/showing";
import { TOOLS } from "./book/toolList";
import type { FrameTool } from "./frame/useFraming";
import { STEP_NAMES, STEPS, type Step } from "./steps";
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

const TOOL_WORDS: Record<string, string[]> = {
  straight: ["straighten", "level", "horizon", "rotate", "tilt", "verticals", "plumb", "upright"],
  horizon: ["sea", "water", "eye level", "straighten"],
  rectangle: ["keystone", "perspective", "façade", "window", "front", "four corners"],
  trace: ["distortion", "barrel", "pincushion", "bow", "curved"],
  level: ["horizontal", "force"],
  plumb: ["vertical", "converging", "keystone", "leaning", "force"],
  set_out: ["bend", "warp", "angle", "straight"],
  check: ["measure", "really slopes", "angle", "protractor"],
};

const STEP_WORDS: Record<Step, string[]> = {
  lens: ["focal length", "distortion", "bow", "barrel", "profile"],
  measure: ["readings", "lines", "field book"],
  frame: ["crop", "aspect ratio", "shape", "print size", "composition", "thirds"],
  corners: ["fill", "empty", "white triangles", "bend", "content", "invent"],
  export: ["save", "download", "file", "JPEG", "TIFF", "PNG"],
};

const SHOWING_WORDS: Record<string, string[]> = {
  shot: ["before", "original"],
  beside: ["before and after", "compare", "side by side"],
  divided: ["before and after", "compare", "split", "slider"],
  corrected: ["after", "work", "lines"],
  finished: ["after", "result", "preview", "crop", "clean", "proof"],
  over: ["before and after", "compare", "overlay", "blend", "transparent"],
};
const SHOWING_KEYS: Record<string, string> = { shot: "B held", finished: "C" };

export interface Pages {
  keys: () => void;
  go: (address: string) => void;
}

export function actionsOf(bench: Bench, desk: Desk, pages: Pages): Action[] {
  const { acts, state } = bench;
  const take = (step: Step, tool: FrameTool) => {
    desk.setStep(step);
    desk.framing.setTool(tool);
  };
  const trimmed = (["roll", "lean", "swing"] as const).filter(
    (axis) => bench.solution.stance[axis].trimmed,
  );
  const axes = trimmed.map((axis) => ({
    name: `Take the ${axis} back to what the readings say`,
    where: "the strip: double click on its vial",
    also: ["reset", "trim", axis],
    act: () => void acts.record({ do: "reset_trim", axis }),
  }));
  return [
    {
      name: "Read the picture",
      key: "A",
      where: "Measure",
      also: ["automatic", "auto", "straighten", "propose", "detect"],
      act: () => desk.pencil.ask(desk.pencil.want),
    },
    ...TOOLS.map(({ tool, name, key }) => ({
      name: tool === "straight" ? "Draw a line" : `Draw: ${name.toLowerCase()}`,
      key,
      where: "Measure",
      also: TOOL_WORDS[tool] ?? [],
      act: () => desk.takeTool(tool),
    })),
    ...STEPS.map((step, place) => ({
      name: `Step: ${STEP_NAMES[step]}`,
      key: String(place + 1),
      where: "the top line",
      also: STEP_WORDS[step],
      act: () => desk.setStep(step),
    })),
    ...[...SHOWINGS, ...COMPARED].map(([showing, name]) => ({
      name: `Show: ${name.toLowerCase()}`,
      key: SHOWING_KEYS[showing],
      where: "the top line",
      also: SHOWING_WORDS[showing] ?? [],
      act: () => desk.setShowing(showing),
    })),
    {
      name: "Undo",
      key: "Ctrl Z",
      where: "the top line",
      also: ["take back", "revert"],
      act: () => void acts.undo(),
    },
    {
      name: "Redo",
      key: "Ctrl Shift Z",
      where: "the top line",
      also: ["again"],
      act: () => void acts.redo(),
    },
    {
      name: "Start over",
      where: "here; undo brings everything back",
      also: ["reset", "as shot", "original", "clear", "begin anew"],
      act: () => void acts.record({ do: "start_over" }),
    },
    ...axes,
    {
      name: "By eye: the calmest of five turns",
      key: "E",
      where: "By eye, under the tools of Measure",
      also: ["straighten", "no line", "no horizon", "guess", "choose"],
      act: () => desk.setJudging(true),
    },
    {
      name: desk.pulling ? "Let go of the corners" : "Pull the corners by eye",
      key: "Q",
      where: "By eye, under the tools of Measure",
      also: ["keystone", "perspective", "distort", "skew", "four corners", "free transform"],
      act: desk.togglePulling,
    },
    {
      name: "Mark something round or square",
      where: "Frame, under the shape",
      also: ["squashed", "stretched", "circle", "proportion", "aspect", "egg"],
      act: () => take("frame", "true_shape"),
    },
    ...(bench.report.white
      ? [
          {
            name: "Choose a grey spot",
            where: "Lens, under Light",
            also: ["white balance", "colour temperature", "kelvin", "daylight", "cast", "warm"],
            act: () => take("lens", "grey"),
          },
        ]
      : []),
    {
      name: "Grid",
      key: "G",
      where: "over the picture",
      also: ["lines", "raster"],
      act: desk.turnGrid,
    },
    {
      name: "Outline of the camera's frame",
      key: "O",
      where: "over the picture",
      also: ["border", "as shot"],
      act: desk.toggleOutline,
    },
    {
      name: "Nothing but the picture",
      key: "F",
      where: "this key",
      also: ["full screen", "hide", "panels", "clean"],
      act: desk.toggleBare,
    },
    {
      name: "The whole screen",
      key: "Shift F",
      where: "this key",
      also: ["full screen", "maximise"],
      act: turnWholeScreen,
    },
    {
      name: "Versions",
      where: "over the column",
      also: ["crops", "copies", "variants"],
      act: () => pages.go(`/pictures/${state.id}/versions`),
    },
    {
      name: "Ledger",
      where: "over the column",
      also: ["history", "steps", "entries"],
      act: () => pages.go(`/pictures/${state.id}/history`),
    },
    {
      name: "Contact sheet",
      where: "the mark at the top left",
      also: ["pictures", "set", "batch", "back"],
      act: () => pages.go(`/sets/${state.set_id}`),
    },
    { name: "Keys", key: "?", where: "the top line", also: ["shortcuts", "help"], act: pages.keys },
  ];
}
