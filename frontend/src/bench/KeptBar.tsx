/* What the frame costs, at the foot of the column. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { memo } from "react";
import { t } from "../shared/words";
import type { Bench } from "./useBench";

export const KeptBar = memo(function KeptBar({ bench }: { bench: Bench }) {
  const { frame, kept_fraction: kept, cost } = bench.solution;
  const now = bench.looking ? bench.state : undefined;
  const { cost: words, bend } = bench.report;
  const filled = bend.done && cost.fill_fraction === 0 ? bend.done : words.filled;
  return (
    <Box
      as="section"
      aria-label={t("Cost of the frame")}
      px="14px"
      py="8px"
      flexShrink={0}
      borderTopWidth="1px"
      borderColor="rule"
      bg="sheet"
    >
      <Flex justify="space-between" columnGap="8px" align="baseline" wrap="wrap">
        <Text fontWeight="600" fontSize="12px" whiteSpace="nowrap">
          {now ? t("would keep {share}", { share: words.share }) : words.kept}
        </Text>
        <Text color="inkSoft" fontFamily="mono" fontSize="11px" whiteSpace="nowrap">
          {now
            ? t("now {share}", { share: now.report.cost.share })
            : `${frame.width} × ${frame.height} px`}
        </Text>
      </Flex>
      <Box
        role="img"
        aria-label={words.kept}
        height="6px"
        bg="paperDeep"
        borderRadius="3px"
        position="relative"
        mt="5px"
        title={words.lost}
      >
        <Box height="100%" bg="verdigris" borderRadius="3px" width={`${kept * 100}%`} />
        {now && (
          <Box
            position="absolute"
            top="-2px"
            bottom="-2px"
            width="2px"
            bg="ink"
            left={`calc(${now.solution.kept_fraction * 100}% - 1px)`}
          />
        )}
      </Box>
      <Text
        color={cost.fill_fraction > 0 ? "level" : "inkSoft"}
        fontSize="12px"
        mt="4px"
        lineHeight="1.3"
        title={bend.done ? bend.stretch : words.fill}
      >
        {filled}
      </Text>
    </Box>
  );
});
