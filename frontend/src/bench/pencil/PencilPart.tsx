/* The pencil in the field book: one press has the picture read, and what it proposes stands below,
   to be inked or rubbed out. */
import { Box, Button, Flex, Spinner, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../../shared/words";
import type { Edit, ProposalOut, Want } from "../../api/client";
import { Choice, HeldButton, QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";
import { CompareProposed } from "./CompareProposed";
import { PencilRow } from "./PencilRow";
import type { Pencil } from "./usePencil";

export const WANTS: { value: Want; label: string }[] = [
  { value: "any", label: t("as it asks") },
  { value: "level", label: t("level (only)", { defaultValue: "level" }) },
  { value: "plumb", label: t("level, plumb") },
  { value: "square", label: t("all square") },
];

/** What has the picture read, and what it is to be. */
export function ReadPart({ pencil }: { pencil: Pencil }) {
  const { want, asking, problem } = pencil;
  return (
    <Box flexShrink={0}>
      <Flex gap="6px" px="14px" pb="8px">
        <QuietButton
          flexShrink={0}
          minWidth="120px"
          borderColor="verdigris"
          color="verdigris"
          aria-busy={asking}
          title={t("Have Sequor find the lines that tell how the camera stood (A)")}
          onClick={() => pencil.ask(want)}
        >
          {asking ? <Spinner size="xs" /> : t("Read the picture")}
        </QuietButton>
        <Choice
          label={t("The picture is to be")}
          value={want}
          options={WANTS}
          onChoose={(chosen) => pencil.ask(chosen)}
        />
      </Flex>
      {problem && (
        <Text role="alert" color="brick" px="16px" pb="8px">
          {problem}
        </Text>
      )}
    </Box>
  );
}

interface Props {
  bench: Bench;
  pencil: Pencil;
  found: ProposalOut;
  selected: string | undefined;
  onSelect: (id: string | undefined) => void;
}

/** What was found: in a sentence, and line by line. */
export function PencilPart({ bench, pencil, found, selected, onSelect }: Props) {
  const { proposal, words } = found;
  const [comparing, setComparing] = useState(false);
  const said = new Map(words.readings.map((one) => [one.id, one]));
  return (
    <Box
      as="section"
      aria-label={t("In pencil")}
      m="2px 10px 10px"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="inkSoft"
      borderRadius="4px"
      bg="sheet"
      opacity={pencil.asking ? 0.6 : 1}
    >
      <Flex gap="10px" px="10px" py="7px" align="start">
        <Text
          flex="1"
          fontSize="12.5px"
          lineHeight="1.4"
          role="status"
          aria-label={t("What was found")}
        >
          {words.summary}
        </Text>
        <Button
          size="2xs"
          variant="ghost"
          color="inkSoft"
          minWidth="22px"
          height="22px"
          px="0"
          aria-label={t("Put the pencil away")}
          title={t("Put the pencil away")}
          onClick={pencil.putAway}
        >
          ×
        </Button>
      </Flex>
      {proposal.readings.length > 0 && (
        <>
          <Flex gap="6px" px="10px" pb="8px" wrap="wrap">
            <Button
              size="xs"
              height="26px"
              px="12px"
              bg={proposal.sure ? "verdigris" : "sheet"}
              color={proposal.sure ? "onVerdigris" : "verdigris"}
              borderWidth="1px"
              borderColor="verdigris"
              title={t("Take all of these readings (I)")}
              onClick={pencil.inkAll}
            >
              {t("Ink all")}
            </Button>
            <HeldButton
              height="26px"
              held={pencil.previewing}
              title={t("Hold the corrected picture against this one (V); nothing is kept")}
              onClick={() => pencil.setPreviewing(!pencil.previewing)}
            >
              {t("Preview")}
            </HeldButton>
            {found.take && (
              <QuietButton
                height="26px"
                title={t("What is proposed against what holds, beside, divided, over each other")}
                onClick={() => setComparing(true)}
              >
                {t("Compare")}
              </QuietButton>
            )}
          </Flex>
          {comparing && found.take && (
            <CompareProposed
              bench={bench}
              take={found.take as Edit}
              onClose={() => setComparing(false)}
            />
          )}
          <Box as="ul" listStyleType="none">
            {proposal.readings.map(({ reading }, place) => {
              const told = said.get(reading.id);
              return (
                told && (
                  <PencilRow
                    key={reading.id}
                    name={t("{kind} line {place}", { kind: t(reading.kind), place: place + 1 })}
                    kind={reading.kind}
                    words={told}
                    lit={selected === reading.id}
                    onSelect={() => onSelect(reading.id)}
                    onInk={() => pencil.ink(reading.id)}
                    onRubOut={() => pencil.rubOut(reading.id)}
                  />
                )
              );
            })}
          </Box>
        </>
      )}
    </Box>
  );
}
