/* The Lens step: the bow, to be taken out before anything is measured, of a raw picture the light,
   and the focal length, on which true proportions depend. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { decimal, locale, t } from "../../shared/words";
import { useOptions } from "../../api/options";
import { NumberField } from "../../shared/NumberField";
import { Part, QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";
import type { Framing } from "../frame/useFraming";
import { BowPart } from "./BowPart";
import { FilePart } from "./FilePart";
import { LightPart } from "./LightPart";

export function LensPanel({ bench, framing }: { bench: Bench; framing: Framing }) {
  return (
    <Box p="16px" overflowY="auto">
      <BowPart bench={bench} />
      <LightPart bench={bench} framing={framing} />
      <FocalPart bench={bench} />
      <FilePart bench={bench} />
    </Box>
  );
}

const millimetres = (value: number): string =>
  `${Number(value.toFixed(1)).toLocaleString(locale())} mm`;

function FocalPart({ bench }: { bench: Bench }) {
  const { focal35_mm: range } = useOptions();
  const { focal35_mm: used, source, estimate35_mm: estimate } = bench.solution.focal;
  const { focal, estimate: estimated } = bench.report.lens;
  const own = bench.state.file.focal35_mm;
  const take = (focal35_mm: number | null) =>
    void bench.acts.record({ do: "set_focal", focal35_mm });
  return (
    <Part title={t("Focal length")}>
      <Flex align="start" gap="8px" lineHeight="30px">
        <NumberField
          label={t("Focal length in 35-mm terms")}
          what={t("A focal length")}
          unit="mm"
          value={used}
          places={1}
          range={range}
          width="90px"
          height="30px"
          onEnter={take}
        />
        <Text minWidth="0">{t("mm in 35-mm terms")}</Text>
      </Flex>
      <Text mt="8px" color="inkSoft">
        {focal}
      </Text>
      {source === "stated" && (
        <QuietButton mt="8px" onClick={() => take(null)}>
          {own
            ? t("Back to the file's {focal}", { focal: millimetres(own) })
            : t("Back to the assumption")}
        </QuietButton>
      )}
      <Box mt="16px" pt="12px" borderTopWidth="1px" borderColor="rule">
        {estimate && estimated ? (
          <>
            <Text>{t("The readings fit {focal}.", { focal: estimated })}</Text>
            <QuietButton mt="8px" onClick={() => take(Math.round(estimate * 10) / 10)}>
              {t("Take {estimate} mm", { estimate: decimal(estimate, 1) })}
            </QuietButton>
          </>
        ) : (
          <Text color="inkSoft">
            {t(
              "Two plumb and two level readings on a front seen from below and from the side tell the focal length; these do not yet.",
            )}
          </Text>
        )}
      </Box>
      <Text mt="16px" color="inkSoft">
        {t(
          "With the right focal length the proportions of a front that is set square are true. Cropping a picture before makes its stated length too short.",
        )}
      </Text>
    </Part>
  );
}
