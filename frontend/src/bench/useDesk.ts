/* What lies on the desk beside the picture: the step and the tool in the hand, what is lit, how the
   picture is shown, what was said last. Nothing of it is stored. */
import { useState } from "react";
import { useFraming } from "./frame/useFraming";
import { usePencil } from "./pencil/usePencil";
import type { Showing } from "./stage/Compare";
import { nextGrid, type Grid } from "./stage/GridLines";
import type { Tool } from "./stage/tools";
import type { Step } from "./TopBar";
import type { Bench } from "./useBench";

export type Desk = ReturnType<typeof useDesk>;

export function useDesk(bench: Bench) {
  const { acts } = bench;
  const [step, setStep] = useState<Step>("measure");
  const [tool, setTool] = useState<Tool | undefined>(
    bench.state.recipe.readings.length ? undefined : "level",
  );
  const [showing, setShowing] = useState<Showing>("corrected");
  const [grid, setGrid] = useState<Grid>("off");
  const [outline, setOutline] = useState(false);
  const [selected, setSelected] = useState<string>();
  const [turning, setTurning] = useState(false);
  const [fitting, setFitting] = useState(true);
  const [said, setSaid] = useState<string>();
  const framing = useFraming();
  const pencil = usePencil(bench);
  const isProposed = pencil.found?.proposal.readings.some(({ reading }) => reading.id === selected);

  const takeTool = (kind: Tool) => {
    setStep("measure");
    setSaid(undefined);
    setTool(kind);
  };
  const remove = (id: string) => void acts.keep({ do: "remove_reading", id });
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
    grid,
    turnGrid: () => setGrid(nextGrid),
    outline,
    toggleOutline: () => setOutline((now) => !now),
    selected,
    select: setSelected,
    turning,
    setTurning,
    /** Whether new readings are fitted to the edge under them. */
    fitting,
    setFitting,
    said,
    say: setSaid,
    framing,
    pencil,
    isProposed,
    remove,
    removeSelected: () => {
      if (!selected) return;
      if (isProposed) pencil.rubOut(selected);
      else remove(selected);
    },
    fit: async (id: string, wanted: boolean) => {
      setStep("measure");
      const outcome = await acts.keep(
        wanted ? { do: "fit_reading", id, another: false } : { do: "unfit_reading", id },
      );
      setSaid(outcome.said);
    },
    nextEdge: async (id: string) => {
      const outcome = await acts.keep({ do: "fit_reading", id, another: true });
      setSaid(outcome.said);
    },
  };
}
