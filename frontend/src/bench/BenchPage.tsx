/* The bench: one picture, one stage, all instruments within reach. */
import { Flex, Spinner, Text } from "@chakra-ui/react";
import { useDeferredValue, useEffect, useState } from "react";
import { useParams } from "react-router";
import type { PictureState } from "../api/client";
import { useOptions } from "../api/options";
import { NotHere } from "../shared/NotHere";
import { ProblemBar } from "../shared/ProblemBar";
import { FieldBook } from "./book/FieldBook";
import { ExportPanel } from "./export/ExportPanel";
import type { Said } from "./foot/AngleField";
import { KeptBar } from "./foot/KeptBar";
import { StancePanel } from "./foot/StancePanel";
import { Vial } from "./foot/Vial";
import { FramePanel } from "./frame/FramePanel";
import { useFraming } from "./frame/useFraming";
import { KeySheet } from "./KeySheet";
import { LensPanel } from "./lens/LensPanel";
import { usePencil } from "./pencil/usePencil";
import type { Showing } from "./stage/Compare";
import { nextGrid, type Grid } from "./stage/GridLines";
import { Stage } from "./stage/Stage";
import type { Tool } from "./stage/useHand";
import { STEPS, TopBar, type Step } from "./TopBar";
import { useBench, type Bench } from "./useBench";
import { useBenchKeys } from "./useBenchKeys";

const PANEL_NAMES = { lens: "Lens", frame: "Frame", export: "Export" };

/** Every picture has a bench of its own, so that no answer for another one is ever shown on it. */
export function BenchPage() {
  const pictureId = Number(useParams().pictureId);
  return <BenchOf key={pictureId} pictureId={pictureId} />;
}

function BenchOf({ pictureId }: { pictureId: number }) {
  const { bench, problem, dismiss } = useBench(pictureId);
  if (!bench) return problem ? <NotHere message={problem.message} /> : <Coming />;
  return <LoadedBench bench={bench} problem={problem?.message} onDismiss={dismiss} />;
}

/** While the picture is on its way. */
function Coming() {
  return (
    <Flex height="100%" align="center" justify="center" gap="10px" bg="stage" role="status">
      <Spinner size="sm" color="onPicture" />
      <Text color="onPicture">The picture is coming…</Text>
    </Flex>
  );
}

interface Props {
  bench: Bench;
  problem: string | undefined;
  onDismiss: () => void;
}

function LoadedBench({ bench, problem, onDismiss }: Props) {
  const [step, setStep] = useState<Step>("measure");
  const [tool, setTool] = useState<Tool | undefined>(
    bench.state.recipe.readings.length ? undefined : "level",
  );
  const [showing, setShowing] = useState<Showing>("corrected");
  const [grid, setGrid] = useState<Grid>("off");
  const [outline, setOutline] = useState(false);
  const [selected, setSelected] = useState<string>();
  const [turning, setTurning] = useState(false);
  const [keys, setKeys] = useState(false);
  const [fitting, setFitting] = useState(true);
  const [said, setSaid] = useState<string>();
  const [typed, setTyped] = useState<Said>();
  const framing = useFraming();
  const pencil = usePencil(bench);
  const { acts } = bench;
  const { nudge_deg: nudgeDeg } = useOptions();
  useTitle(bench.state.file.name);
  // The picture and the vial follow the hand; what only tells about them may come a moment later.
  const calm = useDeferredValue(bench);

  const takeTool = (kind: Tool) => {
    setStep("measure");
    setSaid(undefined);
    setTool(kind);
  };
  const toggleTool = (kind: Tool) =>
    tool === kind && step === "measure" ? setTool(undefined) : takeTool(kind);
  const remove = (id: string) => void acts.keep({ do: "remove_reading", id });
  const fit = async (id: string, wanted: boolean) => {
    setStep("measure");
    const outcome = await acts.keep(
      wanted ? { do: "fit_reading", id, another: false } : { do: "unfit_reading", id },
    );
    setSaid(outcome.said);
  };
  const nextEdge = async (id: string) => {
    const outcome = await acts.keep({ do: "fit_reading", id, another: true });
    setSaid(outcome.said);
  };
  const isProposed = pencil.found?.proposal.readings.some(({ reading }) => reading.id === selected);
  const toggleOutline = () => setOutline((now) => !now);
  const turnGrid = () => setGrid(nextGrid);
  const flick = useBenchKeys({
    acts,
    nudgeDeg,
    onTool: takeTool,
    onEscape: () => {
      setTool(undefined);
      framing.setTool(undefined);
    },
    onGrid: turnGrid,
    onOutline: toggleOutline,
    onDelete: () => {
      if (!selected) return;
      if (isProposed) pencil.rubOut(selected);
      else remove(selected);
    },
    onRead: () => pencil.ask(pencil.want),
    onInk: () => (isProposed && selected ? pencil.ink(selected) : undefined),
    onInkAll: pencil.inkAll,
    onPreview: () => pencil.found?.take && pencil.setPreviewing(!pencil.previewing),
    onNextEdge: () => selected && step === "measure" && void nextEdge(selected),
    onStep: (place) => setStep((now) => STEPS[place] ?? now),
    onKeys: () => setKeys(true),
  });

  return (
    <Flex direction="column" height="100%">
      <TopBar
        bench={calm}
        step={step}
        onStep={setStep}
        showing={showing}
        onShowing={setShowing}
        onKeys={() => setKeys(true)}
      />
      {problem && <ProblemBar message={problem} onClose={onDismiss} />}
      <StateMarks state={bench.state} />
      <Flex flex="1" minHeight="0">
        <FieldBook
          bench={calm}
          tool={tool}
          onTool={toggleTool}
          selected={selected}
          onSelect={setSelected}
          onDelete={remove}
          fitting={fitting}
          onFitting={setFitting}
          onFit={(id, wanted) => void fit(id, wanted)}
          pencil={pencil}
        />
        <Stage
          bench={bench}
          tool={tool}
          onTool={setTool}
          showing={flick ? (showing === "shot" ? "corrected" : "shot") : showing}
          grid={grid}
          onGrid={turnGrid}
          outline={outline}
          onOutline={toggleOutline}
          selected={selected}
          onSelect={setSelected}
          turning={turning}
          measuring={step === "measure"}
          framing={framing}
          placing={step === "frame"}
          fitting={fitting}
          said={said}
          onSay={setSaid}
          proposed={pencil.found}
        />
        {step !== "measure" && (
          <Flex
            as="section"
            aria-label={PANEL_NAMES[step]}
            direction="column"
            width="panel"
            flexShrink={0}
            borderLeftWidth="1px"
            borderColor="rule"
          >
            {step === "lens" && <LensPanel bench={bench} />}
            {step === "frame" && <FramePanel bench={bench} framing={framing} />}
            {step === "export" && <ExportPanel bench={bench} />}
          </Flex>
        )}
      </Flex>
      <Flex
        as="footer"
        height="foot"
        flexShrink={0}
        borderTopWidth="1px"
        borderColor="rule"
        bg="sheet"
      >
        <KeptBar bench={calm} />
        <Vial bench={bench} onTurning={setTurning} said={typed} onSaid={setTyped} />
        <StancePanel bench={bench} onTurning={setTurning} onSaid={setTyped} />
      </Flex>
      {keys && <KeySheet onClose={() => setKeys(false)} />}
    </Flex>
  );
}

/** What is the matter with the stored picture itself, for as long as it is so. */
function StateMarks({ state }: { state: PictureState }) {
  const [seen, setSeen] = useState("");
  if (!state.unreadable || seen === state.unreadable) return null;
  return (
    <ProblemBar
      message={`${state.unreadable} The picture is shown as it was before that entry.`}
      onClose={() => setSeen(state.unreadable)}
    />
  );
}

function useTitle(name: string) {
  useEffect(() => {
    document.title = `${name} · Sequor`;
    return () => {
      document.title = "Sequor";
    };
  }, [name]);
}
