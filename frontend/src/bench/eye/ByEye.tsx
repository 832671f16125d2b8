/* No line to measure: five turns side by side, the calmest is chosen, the steps between them halve,
   and after the last round the choices say how sure it is. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { t } from "../../shared/words";
import type { Draft } from "../../api/client";
import { useOptions } from "../../api/options";
import { QuietButton } from "../../shared/Part";
import { Window } from "../../shared/Window";
import { DraftPicture } from "../DraftPicture";
import type { Bench } from "../useBench";
import { useDrafts } from "../useDrafts";

export function ByEye({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const { by_eye_rounds_deg: rounds } = useOptions();
  const { acts, solution } = bench;
  const now = solution.stance.roll.applied_deg;
  const [chosen, setChosen] = useState<number[]>([]);
  const middle = chosen.at(-1) ?? now;
  const round = rounds[chosen.length] ?? [];
  const turns = round.map((beside) => middle + beside);
  const drafts = useDrafts(
    bench,
    turns.map((turn) => ({ do: "turn_by", axis: "roll", deg: turn - now })),
  );
  const done = (choices: number[]) => {
    onClose();
    void acts.record({ do: "judge_by_eye", turns: choices });
  };
  const choose = (turn: number) => {
    const choices = [...chosen, turn];
    if (choices.length === rounds.length) done(choices);
    else setChosen(choices);
  };
  useEffect(() => {
    const onKey = ({ key }: KeyboardEvent) => {
      const turn = turns[Number(key) - 1];
      if (turn !== undefined && drafts[Number(key) - 1]?.data) choose(turn);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
  return (
    <Window title={t("By eye: which is the calmest?")} width="96vw" onClose={onClose}>
      <Text color="inkSoft" mb="10px">
        {t(
          "Round {round} of {rounds}. Look at what should lie still: water, a table, a far shore. How far your choices differ is kept as how sure it is. The keys 1 to 5 choose.",
          { round: chosen.length + 1, rounds: rounds.length },
        )}
      </Text>
      <Flex gap="8px" wrap="wrap" justify="center">
        {turns.map((turn, index) => (
          <Turn
            key={`${chosen.length} ${index}`}
            bench={bench}
            number={index + 1}
            draft={drafts[index]?.data}
            problem={drafts[index]?.error?.message}
            onChoose={() => choose(turn)}
          />
        ))}
      </Flex>
      <Flex mt="12px" gap="8px" justify="flex-end">
        {chosen.length > 0 && (
          <>
            <QuietButton onClick={() => setChosen(chosen.slice(0, -1))}>
              {t("One round back")}
            </QuietButton>
            <QuietButton onClick={() => done(chosen)}>{t("It is calm now")}</QuietButton>
          </>
        )}
      </Flex>
    </Window>
  );
}

interface TurnProps {
  bench: Bench;
  number: number;
  draft: Draft | undefined;
  problem: string | undefined;
  onChoose: () => void;
}

function Turn({ bench, number, draft, problem, onChoose }: TurnProps) {
  const { width, height } = bench.solution.frame;
  return (
    <Button
      variant="plain"
      width="calc((100% - 16px) / 3)"
      height="auto"
      p="0"
      flexDirection="column"
      alignItems="stretch"
      gap="4px"
      color="ink"
      disabled={!draft}
      onClick={onChoose}
      _hover={{ "& > div": { outline: "2px solid {colors.verdigris}" } }}
    >
      <DraftPicture
        bench={bench}
        draft={draft}
        problem={problem}
        alt=""
        aspectRatio={width / height}
        maxHeight="32vh"
        width="100%"
        borderRadius="3px"
      />
      <Flex justify="space-between" fontSize="12px">
        <Text as="span" fontFamily="mono" color="inkSoft">
          {number}
        </Text>
        <Text as="span">{draft?.report.roll.applied}</Text>
      </Flex>
    </Button>
  );
}
