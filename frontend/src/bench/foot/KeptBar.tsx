import { Box, Text } from "@chakra-ui/react";
import { memo } from "react";
import type { Bench } from "../useBench";

/** What the frame costs. */
export const KeptBar = memo(function KeptBar({ bench }: { bench: Bench }) {
  const { frame, kept_fraction: kept, cost } = bench.solution;
  const { cost: words, bend } = bench.report;
  return (
    <Box width="book" flexShrink={0} px="16px" py="10px" borderRightWidth="1px" borderColor="rule">
      <Text>
        The frame <b>{words.kept}</b>
      </Text>
      <Box
        role="img"
        aria-label={words.kept}
        height="8px"
        bg="paperDeep"
        borderRadius="4px"
        overflow="hidden"
        my="7px"
      >
        <Box height="100%" bg="verdigris" width={`${kept * 100}%`} />
      </Box>
      <Text color="inkSoft" fontFamily="mono" fontSize="12px">
        {frame.width} × {frame.height} px
      </Text>
      <Text color="inkSoft" fontSize="12px" truncate title={words.lost}>
        {words.lost}
      </Text>
      <Text
        color={cost.fill_fraction > 0 ? "level" : "inkSoft"}
        fontSize="12px"
        truncate
        title={bend.done ? `${bend.done}; ${bend.stretch}` : words.fill}
      >
        {bend.done && cost.fill_fraction === 0 ? bend.done : words.filled}
      </Text>
    </Box>
  );
});
