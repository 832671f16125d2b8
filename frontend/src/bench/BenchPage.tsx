/* The bench: one picture, one stage, all instruments within reach. */
import { Flex } from "@chakra-ui/react";
import { useCallback, useDeferredValue, useEffect, useLayoutEffect, useState } from "react";
import { useParams } from "react-router";
import type { Kind } from "../api/client";
import { NotHere } from "../shared/NotHere";
import { ProblemBar } from "../shared/ProblemBar";
import { ExportPanel } from "./ExportPanel";
import { FieldBook } from "./FieldBook";
import { FramePanel } from "./FramePanel";
import { nextGrid, type Grid } from "./GridLines";
import { KeptBar } from "./KeptBar";
import { KeySheet } from "./KeySheet";
import { asDrawn, withChanged, withoutReading, withTrim } from "./recipes";
import { Stage } from "./Stage";
import { TiltField } from "./TiltField";
import { STEPS, TopBar, type Step } from "./TopBar";
import { useBench, type Bench } from "./useBench";
import { Vial } from "./Vial";

export function BenchPage() {
  const pictureId = Number(useParams().pictureId);
  const { bench, problem, dismiss } = useBench(pictureId);
  if (!bench) return problem ? <NotHere message={problem.message} /> : null;
  return <LoadedBench key={bench.state.id} bench={bench} problem={problem?.message} onDismiss={dismiss} />;
}

function LoadedBench({ bench, problem, onDismiss }: { bench: Bench; problem: string | undefined; onDismiss: () => void }) {
  const [step, setStep] = useState<Step>("measure");
  const [tool, setTool] = useState<Kind | undefined>(bench.state.recipe.readings.length ? undefined : "level");
  const [asShotView, setAsShotView] = useState(false);
  const [flick, setFlick] = useState(false);
  const [grid, setGrid] = useState<Grid>("off");
  const [selected, setSelected] = useState<string>();
  const [turning, setTurning] = useState(false);
  const [keys, setKeys] = useState(false);
  const [fitting, setFitting] = useState(true);
  const [said, setSaid] = useState<string>();
  const openKeys = useCallback(() => setKeys(true), []);
  // The picture and the vial follow the hand; what only tells about them may come a moment later.
  const calm = useDeferredValue(bench);
  const chooseTool = (kind: Kind) => {
    setStep("measure");
    setTool((now) => (now === kind ? undefined : kind));
  };
  const remove = (id: string) => void bench.commit(withoutReading(bench.latest(), id), "reading deleted");

  const toggleFit = async (id: string) => {
    const reading = bench.latest().readings.find((r) => r.id === id);
    if (!reading) return;
    setStep("measure");
    if (reading.fitted) return bench.commit(withChanged(bench.latest(), asDrawn(reading)), "reading as drawn");
    const found = await bench.fitted(reading);
    setSaid(found.reading.fitted ? undefined : found.said);
    if (found.reading.fitted) await bench.commit(withChanged(bench.latest(), found.reading), "reading fitted");
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
        void (event.shiftKey ? bench.redo() : bench.undo());
      } else if ((key === "ArrowLeft" || key === "ArrowRight") && !onSlider && !target.closest("[role=radiogroup]")) {
        event.preventDefault();
        const nudge = (event.shiftKey ? 1 : event.altKey ? 0.01 : 0.1) * (key === "ArrowRight" ? 1 : -1);
        bench.commitSoon(withTrim(bench.latest(), bench.latest().trim.roll_deg + nudge), "turned by hand");
      } else if (key === "l" || key === "p") {
        chooseTool(key === "l" ? "level" : "plumb");
        document.querySelector<HTMLElement>("[aria-label=Stage]")?.focus({ preventScroll: true });
      } else if (key === "g") setGrid(nextGrid);
      else if (key === "b") setFlick(true);
      else if (key === "?") setKeys(true);
      else if (key === "0") document.querySelector<HTMLElement>("[data-id=fit]")?.click();
      else if (key === "Escape") setTool(undefined);
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
      <TopBar bench={calm} step={step} onStep={setStep} asShot={asShotView} onAsShot={setAsShotView} onKeys={openKeys} />
      {problem && <ProblemBar message={problem} onClose={onDismiss} />}
      <Flex flex="1" minHeight="0">
        <FieldBook bench={bench} tool={tool} onTool={chooseTool} selected={selected} onSelect={setSelected} onDelete={remove} fitting={fitting} onFitting={setFitting} onFit={(id) => void toggleFit(id)} />
        <Stage
          bench={bench}
          tool={tool}
          onTool={setTool}
          asShot={asShotView !== flick}
          grid={grid}
          onGrid={() => setGrid(nextGrid)}
          selected={selected}
          onSelect={setSelected}
          turning={turning}
          measuring={step === "measure"}
          fitting={fitting}
          said={said}
          onSay={setSaid}
        />
        {step !== "measure" && (
          <Flex as="section" aria-label={step === "frame" ? "Frame" : "Export"} direction="column" width="panel" flexShrink={0} borderLeftWidth="1px" borderColor="rule">
            {step === "frame" ? <FramePanel bench={bench} /> : <ExportPanel bench={bench} />}
          </Flex>
        )}
      </Flex>
      <Flex as="footer" height="foot" flexShrink={0} borderTopWidth="1px" borderColor="rule" bg="sheet">
        <KeptBar solution={calm.solution} />
        <Vial bench={bench} onTurning={setTurning} />
        <TiltField bench={calm} />
      </Flex>
      <KeySheet open={keys} onClose={() => setKeys(false)} />
    </Flex>
  );
}
