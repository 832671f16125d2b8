/* What lies on the desk beside the picture: the step and the tool in the hand, what is lit, how the
   picture is shown, what was said last. Nothing of it is stored. */
import { useState } from "react";
import { useOptions } from "../api/options";
import { useFraming } from "./frame/useFraming";
import { usePencil } from "./pencil/usePencil";
import type { Showing } from "./stage/showing";
import { nextGrid, type Grid } from "./stage/GridLines";
import type { Tool } from "./stage/tools";
import type { Step } from "./steps";
import type { Bench } from "./useBench";

interface Said {
  words: string;
  refused: boolean;
  entry?: number;
}

export type Desk = ReturnType<typeof useDesk>;

export function useDesk(bench: Bench) {
  const { acts } = bench;
  // While the picture turns they stay the same, and with them everything on the desk.
  const { readings } = bench.recipe;
  const { turned_over } = useOptions();
  const [step, showStep] = useState<Step>("measure");
  const [tool, setTool] = useState<Tool | undefined>(readings.length ? undefined : "straight");
  const [showing, setShowing] = useState<Showing>("corrected");
  const [grid, setGrid] = useState<Grid>("off");
  const [outline, setOutline] = useState(false);
  const [selected, setSelected] = useState<string>();
  const [turning, setTurning] = useState(false);
  const [pulling, setPulling] = useState(false);
  const [judging, setJudging] = useState(false);
  const [proofScale, setProofScale] = useState<number>();
  const [along, setAlong] = useState<number>();
  const [fitting, setFitting] = useState(true);
  const [said, setSaid] = useState<Said>();
  // What was said is true of the entry it was said of.
  if (said && said.entry === undefined) setSaid({ ...said, entry: bench.state.entry_id });
  const [bare, setBare] = useState(false);
  const [aidsSlot, setAidsSlot] = useState<HTMLElement | null>(null);
  const framing = useFraming();
  /** What was taken up for one step is laid down in the next. */
  const setStep = (next: Step) => {
    framing.setTool(undefined);
    showStep(next);
  };
  const pencil = usePencil(bench);
  const isProposed = pencil.found?.proposal.readings.some(({ reading }) => reading.id === selected);

  const say = (words: string | undefined, refused = false) =>
    setSaid(words ? { words, refused } : undefined);
  const takeTool = (kind: Tool) => {
    setStep("measure");
    say(undefined);
    setTool(kind);
  };
  /** Make a level of a plumb, a plumb of a level. */
  const turnOver = (id: string | undefined) => {
    const found = readings.find((reading) => reading.id === id);
    const other = found && turned_over[found.kind];
    if (found && other) void acts.record({ do: "read_as", id: found.id, kind: other });
  };
  const remove = (id: string) => void acts.record({ do: "remove_reading", id });
  return {
    step,
    setStep,
    tool,
    setTool,
    takeTool,
    toggleTool: (kind: Tool) =>
      tool === kind && step === "measure" ? setTool(undefined) : takeTool(kind),
    showing,
    setShowing,
    toggleFinished: () => setShowing((now) => (now === "finished" ? "corrected" : "finished")),
    grid,
    turnGrid: () => setGrid(nextGrid),
    outline,
    toggleOutline: () => setOutline((now) => !now),
    selected,
    select: (id: string | undefined) => {
      setSelected(id);
      setAlong(undefined);
    },
    /** Where along the reading that is lit the loupe is, in shares of it. */
    along,
    lookAlong: (share: number) => setAlong(Math.min(1, Math.max(0, share))),
    lookAway: () => setAlong(undefined),
    turning,
    setTurning,
    /** Whether the corners of the picture can be pulled. */
    pulling,
    togglePulling: () => setPulling((now) => !now),
    stopPulling: () => setPulling(false),
    /** Pixels of the file for one of the corrected picture, where that is known. */
    proofScale,
    setProofScale,
    /** Whether five turns lie side by side, to be judged by eye. */
    judging,
    setJudging,
    /** Whether new readings are fitted to the edge under them. */
    fitting,
    setFitting,
    said: said?.entry === bench.state.entry_id ? said : undefined,
    say,
    /** Where the column has room for what is laid over the picture. */
    aidsSlot,
    setAidsSlot,
    /** Nothing but the picture. */
    bare,
    toggleBare: () => setBare((now) => !now),
    showAll: () => setBare(false),
    framing,
    pencil,
    isProposed,
    turnOver,
    remove,
    removeSelected: () => {
      if (!selected) return;
      if (isProposed) pencil.rubOut(selected);
      else remove(selected);
    },
    fit: async (id: string, wanted: boolean) => {
      setStep("measure");
      const outcome = await acts.record(
        wanted ? { do: "fit_reading", id, another: false } : { do: "unfit_reading", id },
      );
      say(outcome.said);
    },
    nextEdge: async (id: string) => {
      const outcome = await acts.record({ do: "fit_reading", id, another: true });
      say(outcome.said);
    },
  };
}
