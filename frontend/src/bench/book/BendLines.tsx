/* How much of what the turn leaves over of the readings is bent away. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";

export function BendLines({ bench }: { bench: Bench }) {
  const { lines } = bench.recipe.bend;
  const { stretch } = bench.report.bend;
  return (
    <Box
      as="section"
      aria-label={t("Bending")}
      borderTopWidth="1px"
      borderColor="rule"
      px="16px"
      pt="6px"
      pb="4px"
      flexShrink={0}
    >
      <Flex gap="10px" align="center" fontSize="12px">
        <Text
          whiteSpace="nowrap"
          title={t(
            "What no turn of the camera sets right: each line becomes what it is, as far as you want",
          )}
        >
          {t("Bend what is left over")}
        </Text>
        <Box flex="1">
          <EditSlider
            bench={bench}
            label={t("Bend what is left over")}
            home={0}
            value={Math.round(lines * 100)}
            min={0}
            max={100}
            edit={(value) => ({ do: "bend_lines", share: value / 100 })}
          />
        </Box>
        <Text fontFamily="mono" width="40px" textAlign="right">
          {Math.round(lines * 100)} %
        </Text>
      </Flex>
      {lines > 0 && stretch && (
        <Text fontSize="12px" color="inkSoft" lineHeight="1.3" pb="2px">
          {stretch}
        </Text>
      )}
    </Box>
  );
}
