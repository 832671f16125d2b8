/* What there is to be said of the readings, and the line that would tell most. */
import { Box, Button, Flex, type ButtonProps } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../../shared/words";
import type { NoteWords } from "../../api/client";
import type { Tool } from "../stage/tools";
import type { Bench } from "../useBench";
import { Outcomes } from "./Outcomes";

/** A plain sentence about the readings, and what can be done about it. */
export function NoteBox({
  note,
  bench,
  onSelect,
  onAnswer,
}: {
  note: NoteWords;
  bench: Bench;
  onSelect: (id: string | undefined) => void;
  /** Something was done about it. */
  onAnswer: () => void;
}) {
  const [comparing, setComparing] = useState(false);
  const [open, setOpen] = useState(false);
  const { acts } = bench;
  return (
    <Box
      role="note"
      m="6px 12px 0"
      p="4px 9px"
      bg="sheet"
      borderWidth="1px"
      borderColor="rule"
      borderLeftWidth="3px"
      borderLeftColor="brick"
      borderRadius="4px"
      lineHeight="1.4"
      onMouseEnter={() => note.readings.length && onSelect(note.readings[0])}
    >
      <Box
        as="button"
        textAlign="left"
        width="100%"
        cursor="pointer"
        aria-expanded={open}
        title={open ? undefined : note.text}
        lineClamp={open ? undefined : 1}
        onClick={() => setOpen(!open)}
      >
        {note.text}
      </Box>
      {(note.offers.length > 0 || note.once) && (
        <Flex wrap="wrap" columnGap="12px">
          {note.outcomes && (
            <WordButton onClick={() => setComparing(true)}>{t("Side by side…")}</WordButton>
          )}
          {note.offers.map(({ label, edit }) => (
            <WordButton
              key={label}
              onClick={() => {
                onAnswer();
                void acts.record(edit);
              }}
            >
              {label}
            </WordButton>
          ))}
          {note.once && (
            <WordButton title={t("Not said again of the pictures of this set")} onClick={onAnswer}>
              {t("I know")}
            </WordButton>
          )}
        </Flex>
      )}
      {comparing && <Outcomes bench={bench} note={note} onClose={() => setComparing(false)} />}
    </Box>
  );
}

/** What can be done, as a word among others. */
function WordButton(props: ButtonProps) {
  return (
    <Button
      size="2xs"
      variant="plain"
      px="0"
      height="22px"
      fontSize="12.5px"
      fontWeight="600"
      color="verdigris"
      {...props}
    />
  );
}

/** The line that would tell most, which lies dotted on the picture, and the tool for it. */
export function NextLineBox({
  words,
  kind,
  onDraw,
}: {
  words: string;
  kind: NonNullable<Bench["solution"]["next_line"]>["kind"] | undefined;
  onDraw: (kind: Tool) => void;
}) {
  return (
    kind && (
      <Box
        role="note"
        aria-label={t("The next best line")}
        m="9px 12px 0"
        p="7px 11px"
        bg="sheet"
        borderWidth="1px"
        borderStyle="dashed"
        borderColor="inkSoft"
        borderRadius="4px"
        lineHeight="1.4"
      >
        {words}{" "}
        <WordButton
          height="18px"
          verticalAlign="baseline"
          title={t("It lies dotted on the picture; draw along what is nearest to it")}
          onClick={() => onDraw(kind)}
        >
          {t("Draw it")}
        </WordButton>
      </Box>
    )
  );
}
