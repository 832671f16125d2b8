/* How good a fill is: the doubt in a line, and what stands out, numbered as on the stage. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { useFillFacts } from "./useFillFacts";

type FillFacts = NonNullable<ReturnType<typeof useFillFacts>["data"]>;

export function FillJudged({ facts }: { facts: FillFacts }) {
  return (
    <Box mt="10px" role="note" aria-label={t("The fill, judged")}>
      <Text color="inkSoft">{facts.doubt_words}</Text>
      <Box as="ol" listStyleType="none">
        {facts.flaws.map((flaw, i) => (
          <Flex as="li" key={`${flaw.kind} ${flaw.x} ${flaw.y}`} mt="6px" gap="8px">
            <Text as="span" fontWeight="600" color="brick" minWidth="14px">
              {i + 1}
            </Text>
            {flaw.words}
          </Flex>
        ))}
      </Box>
      {facts.flaws.length > 0 && (
        <Text mt="6px" color="inkSoft">
          {t("Another candidate, marking what not to copy, or the brush often helps.")}
        </Text>
      )}
    </Box>
  );
}
