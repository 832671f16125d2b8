/* One reading in the field book: its line in the table, and, when it is opened, everything that can
   be set about it. */
import { Box, Button, Flex, Table, Text, VisuallyHidden } from "@chakra-ui/react";
import { useState, type ReactNode } from "react";
import { t } from "../../shared/words";
import type { Reading, ReadingWords, SolvedReading } from "../../api/client";
import type { Acts } from "../useBench";
import { ReadingDetails } from "./ReadingDetails";
import { SignButton } from "./SignButton";
import { FitToggle } from "./FitToggle";

interface Props {
  acts: Acts;
  reading: Reading;
  solved: SolvedReading;
  words: ReadingWords;
  lit: boolean;
  onSelect: (id: string | undefined) => void;
  onDelete: (id: string) => void;
  onFit: (id: string, fit: boolean) => void;
}

export function ReadingRows({
  acts,
  reading,
  solved,
  words,
  lit,
  onSelect,
  onDelete,
  onFit,
}: Props) {
  const [open, setOpen] = useState(false);
  const { number: n, bend_only: bendOnly } = solved;
  const about = [
    reading.active ? "" : t("off"),
    reading.hidden ? t("hidden") : "",
    words.name || words.wanted || (bendOnly ? t("bend from chord") : ""),
  ]
    .filter(Boolean)
    .join(", ");
  const quiet = reading.active ? undefined : 0.5;
  return (
    <>
      <Table.Row
        bg={lit ? "highlight" : undefined}
        borderBottomWidth={open ? "0" : "1px"}
        borderColor="ruleFaint"
        verticalAlign="top"
        onMouseEnter={() => onSelect(solved.id)}
        onClick={() => onSelect(solved.id)}
        aria-label={t("Reading {n}", { n })}
        aria-selected={lit}
      >
        <Cell>
          <Flex align="center" gap="4px">
            <SignButton acts={acts} solved={solved} />
            <Button
              variant="plain"
              size="2xs"
              height="18px"
              px="0"
              gap="4px"
              fontFamily="mono"
              fontSize="12px"
              color={solved.kind}
              opacity={quiet}
              aria-expanded={open}
              aria-label={t("Details of reading {n}", { n })}
              title={t("Name, weight, ends, on and off")}
              onClick={() => setOpen(!open)}
            >
              {n}
              <Text as="span" color="inkSoft" fontSize="10px">
                {open ? "▴" : "▾"}
              </Text>
            </Button>
            <FitToggle solved={solved} reading={reading} words={words} onFit={onFit} />
          </Flex>
          {about && (
            <Text
              fontFamily="body"
              fontSize="11.5px"
              lineHeight="1.3"
              color="inkSoft"
              mt="2px"
              width="84px"
              truncate
              title={about}
            >
              {about}
            </Text>
          )}
        </Cell>
        <Cell faint={quiet}>
          <Text
            as="span"
            whiteSpace="nowrap"
            title={bendOnly ? t("How far it bends from its chord, as shot") : undefined}
          >
            {words.tilt}
            {words.turning && (
              <>
                <span aria-hidden>{TURNS[words.turning]}</span>
                <VisuallyHidden> {words.turning && t(words.turning)}</VisuallyHidden>
              </>
            )}
          </Text>
          <Worth share={solved.worth} length={solved.length_px} />
        </Cell>
        <Cell faint={quiet}>
          <Text as="span" color="inkSoft" fontSize="11.5px" whiteSpace="nowrap">
            {words.deviation}
          </Text>
        </Cell>
        <Cell color={solved.disagrees ? "brick" : undefined}>{words.left_over}</Cell>
        <Cell>
          <Button
            size="2xs"
            variant="ghost"
            color="inkSoft"
            minWidth="22px"
            height="22px"
            px="0"
            aria-label={t("Delete reading {n}", { n })}
            onClick={() => onDelete(solved.id)}
          >
            ×
          </Button>
        </Cell>
      </Table.Row>
      {open && (
        <Table.Row
          bg={lit ? "highlight" : undefined}
          borderBottomWidth="1px"
          borderColor="ruleFaint"
          onMouseEnter={() => onSelect(solved.id)}
        >
          <Table.Cell colSpan={5} px="16px" pb="8px" pt="0">
            <ReadingDetails acts={acts} reading={reading} solved={solved} words={words} />
          </Table.Cell>
        </Table.Row>
      )}
    </>
  );
}

export const TURNS = { clockwise: " ↻", anticlockwise: " ↺" };

/** How much a reading is worth: a short line shows at once that it says little. */
function Worth({ share, length }: { share: number; length: number }) {
  return (
    <Box
      role="img"
      aria-label={t("worth {share} of 100", { share: Math.round(share * 100) })}
      title={t(
        "{length} px long. How much it says: long and sharp fills the bar, short and rough leaves it empty",
        { length: Math.round(length) },
      )}
      height="3px"
      mt="2px"
      ml="auto"
      width="52px"
      bg="rule"
      borderRadius="2px"
      overflow="hidden"
    >
      <Box height="100%" width={`${share * 100}%`} bg={share < 0.3 ? "brick" : "verdigris"} />
    </Box>
  );
}

function Cell({ children, color, faint }: { children: ReactNode; color?: string; faint?: number }) {
  return (
    <Table.Cell
      textAlign="right"
      px="3px"
      py="4px"
      color={color}
      opacity={faint}
      _first={{ pl: "14px", textAlign: "left" }}
      _last={{ pr: "6px" }}
    >
      {children}
    </Table.Cell>
  );
}
