/* Where lines contradict each other: what it comes to as it is, and what if one or another of them
   is not believed, beside each other as pictures. One press takes one. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Draft, NoteWords } from "../../api/client";
import { QuietButton } from "../../shared/Part";
import { Window } from "../../shared/Window";
import { DraftPicture } from "../DraftPicture";
import type { Bench } from "../useBench";
import { useDrafts } from "../useDrafts";

const PANE = { width: 300, height: 214 };

interface Props {
  bench: Bench;
  note: NoteWords;
  onClose: () => void;
}

export function Outcomes({ bench, note, onClose }: Props) {
  const { acts } = bench;
  const drafts = useDrafts(
    bench,
    note.offers.map(({ edit }) => edit),
  );
  return (
    <Window title={t("Which of the lines are believed")} width="1000px" onClose={onClose}>
      <Text color="inkSoft" mb="12px">
        {note.text}
      </Text>
      <Flex gap="14px" wrap="wrap">
        <Outcome bench={bench} name={t("Between them, as it is")} draft={bench} />
        {note.offers.map(({ edit, label }, place) => (
          <Outcome
            key={label}
            bench={bench}
            name={label}
            draft={drafts[place]?.data}
            problem={drafts[place]?.error?.message}
            onTake={() => {
              onClose();
              void acts.record(edit);
            }}
          />
        ))}
      </Flex>
    </Window>
  );
}

interface OutcomeProps {
  bench: Bench;
  name: string;
  draft: Pick<Draft, "solution" | "report"> | undefined;
  problem?: string | undefined;
  onTake?: () => void;
}

function Outcome({ bench, name, draft, problem, onTake }: OutcomeProps) {
  const left = draft?.solution.readings.flatMap(({ number, active }, place) => {
    const words = draft.report.readings[place]?.left_over;
    return active && words ? [`${number}: ${words}`] : [];
  });
  return (
    <Box role="group" aria-label={name} width={`${PANE.width}px`}>
      <DraftPicture
        bench={bench}
        draft={draft}
        problem={problem}
        alt={`${bench.state.file.name}: ${name}`}
        height={`${PANE.height}px`}
      />
      <Flex align="center" gap="8px" mt="8px" minHeight="28px">
        <Text fontWeight="600" flex="1">
          {name}
        </Text>
        {onTake && (
          <QuietButton aria-label={t("Take: {name}", { name })} disabled={!draft} onClick={onTake}>
            {t("Take it")}
          </QuietButton>
        )}
      </Flex>
      {draft && (
        <>
          <Text fontFamily="mono" fontSize="12px">
            {draft.report.roll.applied}
          </Text>
          <Text color="inkSoft" fontSize="12px">
            {draft.report.cost.kept}
          </Text>
          <Text color="inkSoft" fontSize="12px">
            {left?.length
              ? t("left over {left}", { left: left.join(", ") })
              : t("left over nothing")}
          </Text>
        </>
      )}
    </Box>
  );
}
