import { Box, Text } from "@chakra-ui/react";
import { memo } from "react";
import type { Solution } from "../api/client";

/** What the frame costs. */
export const KeptBar = memo(function KeptBar({ solution }: { solution: Solution }) {
  const { frame, kept_fraction: kept, kept_words: words, cost } = solution;
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
      <Text color="inkSoft" fontSize="12px" truncate title={`Lost: ${cost.lost_words}`}>
        {kept > 1 - 1e-9 || cost.lost_words.startsWith("nothing") ? "nothing is lost" : `lost ${cost.lost_words.replaceAll(" %", "")} %`}
      </Text>
      <Text color={cost.fill_fraction > 0 ? "level" : "inkSoft"} fontSize="12px" truncate title={cost.fill_words}>
        {cost.fill_fraction > 0 ? cost.fill_words.replace(/ (filled|empty).*/, " $1") : "nothing empty in its corners"}
      </Text>
    </Box>
  );
});
