/* The entries of a ledger, the newest first; what undo left behind is set in. */
import { Box, Button, Flex, Image, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { decimal, t } from "../shared/words";
import type { HistoryEntry } from "../api/client";
import { timeWords } from "../shared/times";
import { useRoom } from "../shared/useWindow";
import { Virtualizer, type VirtualizerHandle } from "virtua";

const WIDTH = "clamp(332px, 44%, 400px)";
const ROW_PX = 64;
const DEEPEST = 6;
const STEP_PX = 14;

interface Props {
  entries: HistoryEntry[];
  head: number | undefined;
  looked: number | undefined;
  onLook: (id: number) => void;
}

export function EntryList({ entries, head, looked, onLook }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useRef<VirtualizerHandle>(null);
  const { upright } = useRoom();
  const place = entries.findIndex(({ id }) => id === looked);
  useEffect(() => {
    if (place >= 0) rows.current?.scrollToIndex(place, { align: "nearest" });
  }, [place]);
  return (
    <Box
      ref={scroller}
      as="nav"
      aria-label={t("Ledger")}
      width={upright ? "100%" : WIDTH}
      height={upright ? "38%" : undefined}
      flexShrink={0}
      overflowY="auto"
      borderRightWidth="1px"
      borderColor="rule"
    >
      <Virtualizer ref={rows} data={entries} scrollRef={scroller} itemSize={ROW_PX}>
        {(entry) => (
          <Box key={entry.id} height={`${ROW_PX}px`}>
            <EntryRow
              entry={entry}
              present={entry.id === head}
              lit={entry.id === looked}
              onLook={() => onLook(entry.id)}
            />
          </Box>
        )}
      </Virtualizer>
    </Box>
  );
}

interface RowProps {
  entry: HistoryEntry;
  present: boolean;
  lit: boolean;
  onLook: () => void;
}

function EntryRow({ entry, present, lit, onLook }: RowProps) {
  const depth = Math.min(entry.depth, DEEPEST);
  const turned = [entry.turn_words, entry.perspective_words].filter(Boolean).join(", ");
  return (
    <Button
      variant="plain"
      display="flex"
      width="100%"
      height="100%"
      justifyContent="flex-start"
      alignItems="stretch"
      gap="12px"
      p="6px 14px 6px 12px"
      pl={`${12 + depth * STEP_PX}px`}
      borderRadius="0"
      borderBottomWidth="1px"
      borderColor="ruleFaint"
      borderLeftWidth="4px"
      borderLeftColor={present ? "verdigris" : "transparent"}
      bg={lit ? "highlight" : undefined}
      fontWeight="400"
      textAlign="left"
      aria-current={lit}
      onClick={onLook}
    >
      {depth > 0 && (
        <Box width="0" borderLeftWidth="2px" borderStyle="dotted" borderColor="inkSoft" />
      )}
      <Flex width="72px" flexShrink={0} bg="stage" align="center" justify="center">
        <Image src={entry.thumbnail} alt="" maxHeight="50px" maxWidth="100%" loading="lazy" />
      </Flex>
      <Box flex="1" minWidth="0" fontSize="12px" lineHeight="1.4">
        <Flex justify="space-between" gap="8px">
          <Text fontSize="13px" fontWeight={present ? "600" : "500"} truncate title={entry.what}>
            {entry.what}
          </Text>
          {present && (
            <Text color="verdigris" fontWeight="600" whiteSpace="nowrap">
              {t("holds now")}
            </Text>
          )}
        </Flex>
        <Text color="inkSoft" truncate title={turned}>
          {turned}
        </Text>
        <Flex justify="space-between" gap="8px" color="inkSoft" fontFamily="mono" fontSize="11px">
          <Text truncate>
            {[entry.author, timeWords(entry.created_at)].filter(Boolean).join(", ")}
          </Text>
          <Text flexShrink={0}>
            {t("keeps {kept_fraction} %", {
              kept_fraction: decimal(entry.kept_fraction * 100, 1),
            })}
          </Text>
        </Flex>
      </Box>
    </Button>
  );
}
