/* What must not bend, and how far the rest may. */
import { Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { useOptions } from "../../api/options";
import { NumberField } from "../../shared/NumberField";
import { Part } from "../../shared/Part";
import type { Bench } from "../useBench";
import { BrushWidth } from "./BrushWidth";
import { MarkBoxes } from "../frame/MarkBoxes";
import type { Framing } from "../frame/useFraming";

export function BendPart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { max_stretch: range } = useOptions();
  const { still, brushed, max_stretch: most } = bench.recipe.bend;
  return (
    <Part title={t("Bending")}>
      <MarkBoxes label={t("Brush over what must not bend")} tool="still_brush" framing={framing} />
      {framing.tool === "still_brush" && <BrushWidth bench={bench} framing={framing} />}
      <MarkBoxes
        mt="6px"
        label={t("Mark what must not bend")}
        tool="still"
        count={still.length + brushed.length}
        framing={framing}
        onClear={() => void bench.acts.record({ do: "bend_everything" })}
      />
      <Text mt="6px" color="inkSoft" fontSize="12px">
        {t("A face, a person, a round window. Readings and straight edges are held anyway.")}
      </Text>
      <Flex mt="8px" gap="8px" align="center">
        <Text flex="1">{t("Stretch at most")}</Text>
        <NumberField
          label={t("Most that may be stretched")}
          what={t("A stretch")}
          unit="×"
          value={most}
          range={range}
          places={2}
          step={0.05}
          width="70px"
          onEnter={(value) => void bench.acts.record({ do: "limit_bending", max_stretch: value })}
        />
      </Flex>
    </Part>
  );
}
