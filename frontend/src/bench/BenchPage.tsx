/* The bench: one picture, one stage, all instruments within reach. */
import { Flex, Spinner, Text } from "@chakra-ui/react";
import { useDeferredValue, useEffect, useState } from "react";
import { useParams } from "react-router";
import type { PictureState } from "../api/client";
import { NotHere } from "../shared/NotHere";
import { ProblemBar } from "../shared/ProblemBar";
import { FieldBook } from "./book/FieldBook";
import { ExportPanel } from "./export/ExportPanel";
import type { Said } from "./foot/AngleField";
import { KeptBar } from "./foot/KeptBar";
import { StancePanel } from "./foot/StancePanel";
import { Vial } from "./foot/Vial";
import { FramePanel } from "./frame/FramePanel";
import { KeySheet } from "./KeySheet";
import { LensPanel } from "./lens/LensPanel";
import { Stage } from "./stage/Stage";
import { TopBar } from "./TopBar";
import { useBench, type Bench } from "./useBench";
import { useBenchKeys } from "./useBenchKeys";
import { useDesk } from "./useDesk";

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
  const desk = useDesk(bench);
  const { step, showing, pencil, framing } = desk;
  const [keys, setKeys] = useState(false);
  const [typed, setTyped] = useState<Said>();
  useTitle(bench.state.file.name);
  // The picture and the vial follow the hand; what only tells about them may come a moment later.
  const calm = useDeferredValue(bench);
  const flick = useBenchKeys(bench.acts, desk, () => setKeys(true));

  return (
    <Flex direction="column" height="100%">
      <TopBar
        bench={calm}
        step={step}
        onStep={desk.setStep}
        showing={showing}
        onShowing={desk.setShowing}
        onKeys={() => setKeys(true)}
      />
      {problem && <ProblemBar message={problem} onClose={onDismiss} />}
      <StateMarks state={bench.state} />
      <Flex flex="1" minHeight="0">
        <FieldBook bench={calm} desk={desk} />
        <Stage
          bench={bench}
          desk={desk}
          showing={flick ? (showing === "shot" ? "corrected" : "shot") : showing}
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
        <Vial bench={bench} onTurning={desk.setTurning} said={typed} onSaid={setTyped} />
        <StancePanel bench={bench} onTurning={desk.setTurning} onSaid={setTyped} />
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
