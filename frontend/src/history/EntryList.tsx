/* The entries of a ledger, the newest first; what undo left behind is set in. */
import { Box, Button, Flex, Image, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import type { HistoryEntry } from "../api/client";
import { timeWords } from "../shared/times";
import { useRoom } from "../shared/useWindow";
import { useRows } from "../shared/useRows";

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
  "use no memo"; // see useRows

  const scroller = useRef<HTMLDivElement>(null);
  const rows = useRows({ count: entries.length, scroller, height: ROW_PX });
  const { upright } = useRoom();
  const place = entries.findIndex(({ id }) => id === looked);
  useEffect(() => {
    if (place >= 0) rows.scrollToIndex(place);
  }, [place, rows]);
  return (
    <Box
      ref={scroller}
      as="nav"
      aria-label="Ledger"
      width={upright ? "100%" : "min(400px, 44%)"}
      height={upright ? "38%" : undefined}
      flexShrink={0}
      overflowY="auto"
      borderRightWidth="1px"
      borderColor="rule"
    >
      <Box position="relative" height={`${rows.getTotalSize()}px`}>
        {rows.getVirtualItems().map((row) => {
          const entry = entries[row.index];
          return (
            entry && (
              <Box
                key={entry.id}
                position="absolute"
                insetX="0"
                height={`${ROW_PX}px`}
                style={{ transform: `translateY(${row.start}px)` }}
              >
                <EntryRow
                  entry={entry}
                  present={entry.id === head}
                  lit={entry.id === looked}
                  onLook={() => onLook(entry.id)}
                />
              </Box>
            )
          );
        })}
      </Box>
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
              holds now
            </Text>
          )}
        </Flex>
        <Text color="inkSoft" truncate title={turned}>
          {turned}
        </Text>
        <Flex justify="space-between" color="inkSoft" fontFamily="mono" fontSize="11px">
          <span>{timeWords(entry.created_at)}</span>
          <span>keeps {(entry.kept_fraction * 100).toFixed(1)} %</span>
        </Flex>
      </Box>
    </Button>
  );
}
