import { Box, Button, Flex, Progress, Text } from "@chakra-ui/react";
import type { Incoming } from "./useUploads";

const OUTCOMES: Record<Incoming["outcome"], string> = {
  waiting: "waiting",
  sending: "sending",
  reading: "reading",
  added: "added",
  known: "known already",
  refused: "refused",
};

/** Files on their way in, each with its progress or the reason why it was refused. */
export function IncomingList({ incoming, onClear }: { incoming: Incoming[]; onClear: () => void }) {
  if (incoming.length === 0) return null;
  const open = incoming.some((item) => ["waiting", "sending", "reading"].includes(item.outcome));
  return (
    <Box
      as="section"
      aria-label="Incoming files"
      mb="18px"
      bg="sheet"
      borderWidth="1px"
      borderColor="rule"
      borderRadius="4px"
    >
      {incoming.map((item) => (
        <Flex
          key={item.key}
          align="center"
          gap="16px"
          px="14px"
          py="7px"
          borderBottomWidth="1px"
          borderColor="ruleFaint"
        >
          <Text width="220px" truncate title={item.name} flexShrink={0}>
            {item.name}
          </Text>
          {item.problem ? (
            <Text
              flex="1"
              color={item.outcome === "refused" ? "brick" : "inkSoft"}
              role={item.outcome === "refused" ? "alert" : undefined}
            >
              {item.problem}
            </Text>
          ) : (
            <Progress.Root
              flex="1"
              size="xs"
              value={Math.round(item.share * 100)}
              aria-label={`Progress of ${item.name}`}
            >
              <Progress.Track bg="paperDeep">
                <Progress.Range bg="verdigris" />
              </Progress.Track>
            </Progress.Root>
          )}
          <Text width="100px" textAlign="right" color="inkSoft" flexShrink={0}>
            {OUTCOMES[item.outcome]}
          </Text>
        </Flex>
      ))}
      {!open && (
        <Flex justify="flex-end" px="14px" py="6px">
          <Button size="xs" variant="ghost" color="verdigris" onClick={onClear}>
            Clear this list
          </Button>
        </Flex>
      )}
    </Box>
  );
}
