/* Air around what is kept, and the side that it looks to. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { useOptions } from "../../api/options";
import { HeldButton } from "../../shared/Part";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";
import { useLook } from "../useLook";

export function AirPart({ bench }: { bench: Bench }) {
  const { most_air: most, sides } = useOptions();
  const { air, looks } = bench.recipe.frame;
  const look = useLook(bench.acts);
  return (
    <Box mt="8px">
      <Flex align="center" gap="10px">
        <Text whiteSpace="nowrap">{t("Air around it")}</Text>
        <EditSlider
          bench={bench}
          label={t("Air around what is kept")}
          home={0}
          value={Math.round(air * 100)}
          min={0}
          max={most * 100}
          step={5}
          width="100px"
          edit={(percent) => ({ do: "give_air", air: percent / 100 })}
        />
        <Text fontFamily="mono" fontSize="12px" width="44px" textAlign="right">
          {Math.round(air * 100)} %
        </Text>
      </Flex>
      <Flex mt="6px" gap="6px" align="center" role="group" aria-label={t("The side it looks to")}>
        <Text whiteSpace="nowrap">{t("looks")}</Text>
        {sides.map(({ value, label }) => {
          const edit = { do: "look_to", side: looks === value ? null : value } as const;
          return (
            <HeldButton
              key={value}
              held={looks === value}
              px="8px"
              title={t("The frame has the more room on that side")}
              onClick={() => void bench.acts.record(edit)}
              {...look(edit)}
            >
              {label}
            </HeldButton>
          );
        })}
      </Flex>
    </Box>
  );
}
