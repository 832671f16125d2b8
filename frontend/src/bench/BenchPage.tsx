/* The bench: one picture, one stage, all instruments within reach. */
import { Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Redirect, useParams } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { t } from "../shared/words";
import type { PictureState } from "../api/client";
import { NotHere } from "../shared/NotHere";
import { useKeys } from "../shared/keys";
import { Coming } from "../shared/Coming";
import { later, useAhead } from "../shared/later";
import { useTitle } from "../shared/useTitle";
import { ProblemBar } from "../shared/ProblemBar";
import { useRoom } from "../shared/useWindow";
import { AtRest } from "./AtRest";
import { Column } from "./Column";
import { FindBox } from "./FindBox";
import { Stage } from "./stage/Stage";
import { Strip } from "./strip/Strip";
import { TopBar } from "./TopBar";
import { useBench, type Bench } from "./useBench";
import { UndoHint } from "./UndoHint";
import { useBenchKeys } from "./useBenchKeys";
import { useCalm } from "./useCalm";
import { useDesk } from "./useDesk";

const ByEye = later(async () => (await import("./eye/ByEye")).ByEye);
const KeySheet = later(async () => (await import("./KeySheet")).KeySheet);

/** Every picture has a bench of its own, so that no answer for another one is ever shown on it. */
export function BenchPage() {
  const pictureId = Number(useParams().pictureId);
  return <BenchOf key={pictureId} pictureId={pictureId} />;
}

function BenchOf({ pictureId }: { pictureId: number }) {
  const { bench, problem, present, dismiss } = useBench(pictureId);
  // Who may only look has a page to look at it.
  if (bench && !bench.state.may.includes("work"))
    return <Redirect to={`/pictures/${pictureId}/notes`} replace />;
  if (!bench)
    return problem ? (
      <NotHere message={problem.message} />
    ) : (
      <Coming words={t("The picture is coming…")} bg="stage" color="onPicture" />
    );
  const said = problem?.message;
  return <LoadedBench bench={bench} problem={said} present={present} onDismiss={dismiss} />;
}

interface Props {
  bench: Bench;
  problem: string | undefined;
  /** Others who look at the picture. */
  present: string[];
  onDismiss: () => void;
}

function LoadedBench({ bench, problem, present, onDismiss }: Props) {
  const desk = useDesk(bench);
  const { step, showing, pencil, bare } = desk;
  const [keys, setKeys] = useState(false);
  const [finding, setFinding] = useState(false);
  const { upright, low } = useRoom();
  // The tube stays by the thumb, and has the whole width.
  const below = upright || low;
  useAhead(FindBox, ByEye, KeySheet);
  useTitle(bench.state.file.name);
  useKeys(["/"], (event) => {
    event.preventDefault();
    setFinding(true);
  });
  // The picture and the vial follow the hand; what only tells about them may come a moment later.
  const calm = useCalm(bench);
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
        <Flex direction="column" flex="1" minWidth="0" minHeight="0" position="relative">
          {!bare && <UndoHint state={bench.state} />}
          {present.length > 0 && <Others names={present} />}
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
          bench={bench}
          desk={desk}
          pages={{ keys: () => setKeys(true), go: (address) => navigate(address) }}
          onClose={() => setFinding(false)}
        />
      )}
      {desk.judging && <ByEye bench={bench} onClose={() => desk.setJudging(false)} />}
      {keys && <KeySheet onClose={() => setKeys(false)} />}
    </Flex>
  );
}

/** Who else is at the picture; over it, so that nothing moves as they come and go. */
function Others({ names }: { names: string[] }) {
  const all = names.join(", ");
  return (
    <Text
      role="status"
      position="absolute"
      left="16px"
      top="52px"
      zIndex="1"
      maxWidth="240px"
      px="10px"
      py="3px"
      fontSize="12px"
      bg="sheet"
      color="ink"
      borderWidth="1px"
      borderColor="rule"
      borderRadius="4px"
      truncate
      title={t("Also at this picture: {names}. What they keep is shown as they keep it.", {
        names: all,
      })}
    >
      {t("Also here: {names}", { names: all })}
    </Text>
  );
}

/** What is the matter with the stored picture itself, for as long as it is so. */
function StateMarks({ state }: { state: PictureState }) {
  const [seen, setSeen] = useState("");
  const [read, setRead] = useState(0);
  if (state.beside && read !== state.entry_id)
    return <ProblemBar message={state.beside} onClose={() => setRead(state.entry_id)} />;
  if (!state.unreadable || seen === state.unreadable) return null;
  return (
    <ProblemBar
      message={t("{reason} The picture is shown as it was before that entry.", {
        reason: state.unreadable,
      })}
      onClose={() => setSeen(state.unreadable)}
    />
  );
}
