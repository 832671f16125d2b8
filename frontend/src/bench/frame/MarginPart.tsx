/* A margin all round, as for a print that is wrapped about its panel: in the unit of the print size
   where there is one, else a share of the frame. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useOptions } from "../../api/options";
import type { Edit } from "../../api/client";
import { NumberField } from "../../shared/NumberField";
import { Part } from "../../shared/Part";
import { t } from "../../shared/words";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";

const PERCENT = { whole: 100, step: 1, places: 1 };
/** Of lengths on paper. */
const STEPS = { cm: 0.5, in: 0.25 } as const;

export function MarginPart({ bench }: { bench: Bench }) {
  const { margin: limits, margin_slider: usual } = useOptions();
  const { margin, print_size: print } = bench.recipe.frame;
  // What the shorter side is, in what is shown.
  const { whole, step, places } = print
    ? { whole: Math.min(print.width, print.height), step: STEPS[print.unit], places: 2 }
    : PERCENT;
  const unit = print ? t(print.unit) : "%";
  const now = Number((margin * whole).toFixed(places));
  const edit = (value: number): Edit =>
    print ? { do: "give_margin", length: value } : { do: "give_margin", margin: value / 100 };
  const most = Math.floor((usual.high * whole) / step) * step;
  return (
    <Part title={t("Margin all round")}>
      <Text color="inkSoft" mb="6px">
        {bench.report.shape.margin ||
          t("For a print that is wrapped about its edges; filled where the picture ends.")}
      </Text>
      <Flex align="center" gap="12px">
        <Box flex="1">
          <EditSlider
            bench={bench}
            label={t("Margin all round")}
            home={0}
            value={Math.min(now, most)}
            min={0}
            max={most}
            step={step}
            edit={edit}
          />
        </Box>
        <NumberField
          label={t("Margin")}
          what={t("A margin")}
          value={now}
          range={{ low: 0, high: limits.high * whole }}
          unit={unit}
          step={step}
          places={places}
          width="72px"
          onEnter={(value) => void bench.acts.record(edit(value))}
        />
        <Text>{unit}</Text>
      </Flex>
    </Part>
  );
}
