/* The bench: one picture, one stage, all instruments within reach. */
import { Flex, Spinner, Text } from "@chakra-ui/react";
import { useDeferredValue, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { PictureState } from "../api/client";
import { NotHere } from "../shared/NotHere";
import { useKeys } from "../shared/keys";
import { later, useAhead } from "../shared/later";
import { useTitle } from "../shared/useTitle";
import { ProblemBar } from "../shared/ProblemBar";
import { actionsOf } from "./actions";
import { useRoom } from "../shared/useWindow";
import { AtRest } from "./AtRest";
import { Column } from "./Column";
import { FindBox } from "./FindBox";
import { Stage } from "./stage/Stage";
import { Strip } from "./strip/Strip";
import { TopBar } from "./TopBar";
import { useBench, type Bench } from "./useBench";
import { useBenchKeys } from "./useBenchKeys";
import { useDesk } from "./useDesk";

const ByEye = later(async () => (await import("./eye/ByEye")).ByEye);
const KeySheet = later(async () => (await import("./KeySheet")).KeySheet);

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
  const { step, showing, pencil, bare } = desk;
  const [keys, setKeys] = useState(false);
  const [finding, setFinding] = useState(false);
  const navigate = useNavigate();
  const { upright, low } = useRoom();
  // The tube stays by the thumb, and has the whole width.
  const below = upright || low;
  useAhead(ByEye, KeySheet);
  useTitle(bench.state.file.name);
  useKeys(["/"], (event) => {
    event.preventDefault();
    setFinding(true);
  });
  // The picture and the vial follow the hand; what only tells about them may come a moment later.
  const calm = useDeferredValue(bench);
  const flick = useBenchKeys(bench.acts, desk, () => setKeys(true));

  return (
    <Flex direction="column" height="100%">
      {!bare && (
        <TopBar
          bench={calm}
          step={step}
          onStep={desk.setStep}
          showing={showing}
          onShowing={desk.setShowing}
          onKeys={() => setKeys(true)}
          onFind={() => setFinding(true)}
        />
      )}
      {problem && <ProblemBar message={problem} onClose={onDismiss} />}
      <StateMarks state={bench.state} />
      <Flex as="main" flex="1" minHeight="0" direction={upright ? "column" : "row"}>
        <Flex direction="column" flex="1" minWidth="0" minHeight="0">
          <Stage
            bench={bench}
            desk={desk}
            showing={showing}
            flick={flick}
            proposed={pencil.found}
          />
          {!bare && !below && <Strip bench={bench} desk={desk} />}
        </Flex>
        {!bare && <Column bench={bench} calm={calm} desk={desk} />}
        <AtRest state={bench.state} />
      </Flex>
      {!bare && below && <Strip bench={bench} desk={desk} />}
      {finding && (
        <FindBox
          actions={actionsOf(bench, desk, {
            keys: () => setKeys(true),
            go: (address) => void navigate(address),
          })}
          onClose={() => setFinding(false)}
        />
      )}
      {desk.judging && <ByEye bench={bench} onClose={() => desk.setJudging(false)} />}
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
