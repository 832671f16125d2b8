/* One proposed line: what it reads and why it was taken, to be inked or rubbed out. */
import { Box, Flex, Text, VisuallyHidden } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { PencilWords } from "../../api/client";
import { QuietButton } from "../../shared/Part";
import { TURNS } from "../book/ReadingRows";
import { KindSign } from "../stage/ReadingMark";

interface RowProps {
  name: string;
  kind: Parameters<typeof KindSign>[0]["kind"];
  words: PencilWords;
  lit: boolean;
  onSelect: () => void;
  onInk: () => void;
  onRubOut: () => void;
}

export function PencilRow({ name, kind, words, lit, onSelect, onInk, onRubOut }: RowProps) {
  return (
    <Flex
      as="li"
      aria-label={t("Proposed {name}", { name })}
      align="center"
      gap="7px"
      px="10px"
      py="3px"
      borderTopWidth="1px"
      borderColor="ruleFaint"
      bg={lit ? "highlight" : undefined}
      onMouseEnter={onSelect}
      onFocus={onSelect}
    >
      <KindSign kind={kind} />
      <Box flex="1" minWidth="0">
        <Flex fontFamily="mono" fontSize="11.5px" color="inkSoft" whiteSpace="nowrap">
          <span>
            {words.tilt}
            {words.turning && <span aria-hidden>{TURNS[words.turning]}</span>}
            <VisuallyHidden> {words.turning && t(words.turning)}</VisuallyHidden> {words.deviation}
          </span>
        </Flex>
        <Text fontSize="11.5px" color="inkSoft" lineHeight="1.25" truncate title={words.reason}>
          <span title={t("How much it counts among all")}>{words.counts}</span>, {words.reason}
        </Text>
      </Box>
      <SmallButton label={t("Ink {name}", { name })} onClick={onInk}>
        {t("ink")}
      </SmallButton>
      <SmallButton label={t("Rub out {name}", { name })} onClick={onRubOut}>
        {t("rub out")}
      </SmallButton>
    </Flex>
  );
}

function SmallButton({
  label,
  onClick,
  children,
}: {
  label: string;
  onClick: () => void;
  children: string;
}) {
  return (
    <QuietButton
      size="2xs"
      height="22px"
      px="5px"
      fontSize="11.5px"
      flexShrink={0}
      aria-label={label}
      onClick={onClick}
    >
      {children}
    </QuietButton>
  );
}
