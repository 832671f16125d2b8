import { Box, Text } from "@chakra-ui/react";
import { memo } from "react";
import type { Solution } from "../api/client";

/** What the frame costs. */
export const KeptBar = memo(function KeptBar({ solution }: { solution: Solution }) {
  const { frame, kept_fraction: kept, kept_words: words } = solution;
  return (
    <Box width="book" flexShrink={0} px="16px" py="10px" borderRightWidth="1px" borderColor="rule">
      <Text>
        The frame <b>{words}</b>
      </Text>
      <Box role="img" aria-label={words} height="8px" bg="paperDeep" borderRadius="4px" overflow="hidden" my="7px">
        <Box height="100%" bg="verdigris" width={`${kept * 100}%`} />
      </Box>
      <Text color="inkSoft" fontFamily="mono" fontSize="12px">
        {frame.width} × {frame.height} px
      </Text>
      <Text color="inkSoft">nothing empty in its corners</Text>
    </Box>
  );
});
