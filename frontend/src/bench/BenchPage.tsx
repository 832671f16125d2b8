/* The bench: one picture, one stage, all instruments within reach. */
import { Flex } from "@chakra-ui/react";
import { useCallback, useDeferredValue, useEffect, useLayoutEffect, useState } from "react";
import { useParams } from "react-router";
import { NotHere } from "../shared/NotHere";
import { ProblemBar } from "../shared/ProblemBar";
import type { Said } from "./AngleField";
import type { Showing } from "./Compare";
import { ExportPanel } from "./ExportPanel";
import { FieldBook } from "./FieldBook";
import { FramePanel } from "./FramePanel";
import { nextGrid, type Grid } from "./GridLines";
import { KeptBar } from "./KeptBar";
import { KeySheet } from "./KeySheet";
import { LensPanel } from "./LensPanel";
import { asDrawn, linkedWith, turnedBy, withChanged, withoutReading } from "./recipes";
import { Stage } from "./Stage";
import { StancePanel } from "./StancePanel";
import { STEPS, TopBar, type Step } from "./TopBar";
import { useBench, type Bench } from "./useBench";
import type { Tool } from "./useHand";
import { useFraming } from "./useFraming";
import { nudgeOf } from "./useTube";
import { Vial } from "./Vial";

const PANEL_NAMES = { lens: "Lens", frame: "Frame", export: "Export" };
const KEY_TOOLS: Record<string, Tool> = { l: "level", p: "plumb", k: "check", t: "trace", r: "rectangle" };

export function BenchPage() {
  const pictureId = Number(useParams().pictureId);
  const { bench, problem, dismiss } = useBench(pictureId);
  if (!bench) return problem ? <NotHere message={problem.message} /> : null;
  return <LoadedBench key={bench.state.id} bench={bench} problem={problem?.message} onDismiss={dismiss} />;
}

function LoadedBench({ bench, problem, onDismiss }: { bench: Bench; problem: string | undefined; onDismiss: () => void }) {
  const [step, setStep] = useState<Step>("measure");
  const [tool, setTool] = useState<Tool | undefined>(bench.state.recipe.readings.length ? undefined : "level");
  const [showing, setShowing] = useState<Showing>("corrected");
  const [flick, setFlick] = useState(false);
  const [grid, setGrid] = useState<Grid>("off");
  const [selected, setSelected] = useState<string>();
  const [turning, setTurning] = useState(false);
  const [keys, setKeys] = useState(false);
  const [fitting, setFitting] = useState(true);
  const [said, setSaid] = useState<string>();
  const [typed, setTyped] = useState<Said>();
  const [outline, setOutline] = useState(false);
  const framing = useFraming();
  const { acts } = bench;
  const openKeys = useCallback(() => setKeys(true), []);
  // The picture and the vial follow the hand; what only tells about them may come a moment later.
  const calm = useDeferredValue(bench);
  const chooseTool = (kind: Tool) => {
    setStep("measure");
    setTool((now) => (now === kind ? undefined : kind));
  };
  const remove = (id: string) => void acts.commit(withoutReading(acts.latest(), id), "reading deleted");

  const toggleFit = async (id: string): Promise<void> => {
    const reading = acts.latest().readings.find((r) => r.id === id);
    if (!reading) return;
    setStep("measure");
    const sides = linkedWith(acts.latest(), reading);
    if (reading.fitted) return acts.commit(withChanged(acts.latest(), ...sides.map(asDrawn)), "reading as drawn");
    const found = await acts.fitted(sides);
    const fitted = found.readings.some((r) => r.fitted);
    setSaid(found.readings.every((r) => r.fitted) ? undefined : found.said);
    if (fitted) await acts.commit(withChanged(acts.latest(), ...found.readings), "reading fitted");
  };

  useEffect(() => {
    document.title = `${bench.state.file.name} · Sequor`;
    return () => {
      document.title = "Sequor";
    };
  }, [bench.state.file.name]);

  // Before the first paint, so that no key is lost that is pressed as soon as the picture is seen.
  useLayoutEffect(() => {
    const down = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input:not([type=radio]):not([type=checkbox]), select, textarea, [role=dialog]")) return;
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      const onSlider = target.closest("[role=slider]") && target.getAttribute("aria-label") !== "Roll";
      if (event.ctrlKey || event.metaKey) {
        if (key !== "z") return;
        event.preventDefault();
        void (event.shiftKey ? acts.redo() : acts.undo());
      } else if ((key === "ArrowLeft" || key === "ArrowRight") && !onSlider && !target.closest("[role=radiogroup]")) {
        event.preventDefault();
        acts.commitSoon(turnedBy(acts.latest(), "roll", nudgeOf(event) * (key === "ArrowRight" ? 1 : -1)), "turned by hand");
      } else if (KEY_TOOLS[key]) {
        chooseTool(KEY_TOOLS[key]);
        document.querySelector<HTMLElement>("[aria-label=Stage]")?.focus({ preventScroll: true });
      } else if (key === "g") setGrid(nextGrid);
      else if (key === "o") setOutline((now) => !now);
      else if (key === "b") setFlick(true);
      else if (key === "?") setKeys(true);
      else if (key === "0") document.querySelector<HTMLElement>("[data-id=fit]")?.click();
      else if (key === "Escape") {
        setTool(undefined);
        framing.setTool(undefined);
      }
      else if ((key === "Delete" || key === "Backspace") && selected) remove(selected);
      else if (/^[1-9]$/.test(key)) setStep((now) => STEPS[Number(key) - 1] ?? now);
    };
    const up = (event: KeyboardEvent) => event.key.toLowerCase() === "b" && setFlick(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  });

  return (
    <Flex direction="column" height="100%">
      <TopBar bench={calm} step={step} onStep={setStep} showing={showing} onShowing={setShowing} onKeys={openKeys} />
      {problem && <ProblemBar message={problem} onClose={onDismiss} />}
      <Flex flex="1" minHeight="0">
        <FieldBook bench={calm} tool={tool} onTool={chooseTool} selected={selected} onSelect={setSelected} onDelete={remove} fitting={fitting} onFitting={setFitting} onFit={toggleFit} />
        <Stage
          bench={bench}
          tool={tool}
          onTool={setTool}
          showing={flick ? (showing === "shot" ? "corrected" : "shot") : showing}
          grid={grid}
          onGrid={() => setGrid(nextGrid)}
          outline={outline}
          onOutline={() => setOutline((now) => !now)}
          selected={selected}
          onSelect={setSelected}
          turning={turning}
          measuring={step === "measure"}
          framing={framing}
          placing={step === "frame"}
          fitting={fitting}
          said={said}
          onSay={setSaid}
        />
        {step !== "measure" && (
          <Flex as="section" aria-label={PANEL_NAMES[step]} direction="column" width="panel" flexShrink={0} borderLeftWidth="1px" borderColor="rule">
            {step === "lens" ? <LensPanel bench={bench} /> : step === "frame" ? <FramePanel bench={bench} framing={framing} /> : <ExportPanel bench={bench} />}
          </Flex>
        )}
      </Flex>
      <Flex as="footer" height="foot" flexShrink={0} borderTopWidth="1px" borderColor="rule" bg="sheet">
        <KeptBar solution={calm.solution} />
        <Vial bench={bench} onTurning={setTurning} said={typed} onSaid={setTyped} />
        <StancePanel bench={bench} onTurning={setTurning} onSaid={setTyped} />
      </Flex>
      {keys && <KeySheet onClose={() => setKeys(false)} />}
    </Flex>
  );
}
