/* A margin all round, as for a print that is wrapped about its panel: in the unit of the print size
   where there is one, else a share of the frame. */
import { Box, Flex, Text } from "@chakra-ui/react";
import type { Edit } from "../../api/client";
import { NumberField } from "../../shared/NumberField";
import { Part } from "../../shared/Part";
import { t } from "../../shared/words";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";

export function MarginPart({ bench }: { bench: Bench }) {
  const { words, by, unit, value, step, usual, most } = bench.report.shape.margin;
  const edit = (set: number): Edit =>
    by === "length" ? { do: "give_margin", length: set } : { do: "give_margin", margin: set / 100 };
  return (
    <Part title={t("Margin all round")}>
      <Text color="inkSoft" mb="6px">
        {words || t("For a print that is wrapped about its edges; filled where the picture ends.")}
      </Text>
      <Flex align="center" gap="12px">
        <Box flex="1">
          <EditSlider
            bench={bench}
            label={t("Margin all round")}
            home={0}
            value={Math.min(value, usual)}
            min={0}
            max={usual}
            step={step}
            edit={edit}
          />
        </Box>
        <NumberField
          label={t("Margin")}
          what={t("A margin")}
          value={value}
          range={{ low: 0, high: most }}
          unit={unit}
          step={step}
          places={2}
          width="72px"
          onEnter={(set) => void bench.acts.record(edit(set))}
        />
        <Text>{unit}</Text>
      </Flex>
    </Part>
  );
}
