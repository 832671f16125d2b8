/* What the frame is composed by: a point that meets a guide, or the middle between two edges. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../../shared/words";
import type { Edit } from "../../api/client";
import { useOptions } from "../../api/options";
import { Choice, HeldButton, Part, QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";
import { useLook } from "../useLook";
import { TakeTool } from "./TakeTool";
import type { Framing } from "./useFraming";

export function AimPart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { guides, aim_meets: meets } = useOptions();
  const { aim } = bench.recipe.frame;
  const look = useLook(bench.acts);
  const keep = (edit: Edit) => void bench.acts.record(edit);
  return (
    <Part title={t("Aim")}>
      <Flex gap="6px">
        <TakeTool framing={framing} tool="aim">
          {aim?.point ? t("Choose another point") : t("Choose a point")}
        </TakeTool>
        {aim && <QuietButton onClick={() => keep({ do: "clear_aim" })}>{t("Clear")}</QuietButton>}
      </Flex>
      {aim?.point && (
        <Flex
          mt="6px"
          gap="6px"
          align="center"
          role="group"
          aria-label={t("What the point is to meet")}
        >
          <Text whiteSpace="nowrap">{t("to meet")}</Text>
          {meets.map(({ value, label }) => (
            <HeldButton
              key={value}
              held={aim.meets === value}
              onClick={() => keep({ do: "change_aim", meets: value })}
              {...look({ do: "change_aim", meets: value })}
            >
              {label}
            </HeldButton>
          ))}
          <Choice
            label={t("Guide of the aim")}
            value={aim.guide}
            options={guides.map(({ guide, name }) => ({ value: guide, label: name.toLowerCase() }))}
            onChoose={(guide) => keep({ do: "change_aim", guide })}
          />
        </Flex>
      )}
      <Between bench={bench} />
    </Part>
  );
}

/** The frame's middle midway between two readings. */
function Between({ bench }: { bench: Bench }) {
  const { readings } = bench.recipe;
  const between = bench.recipe.frame.aim?.between;
  const [first, setFirst] = useState(between?.[0] ?? "");
  const [second, setSecond] = useState(between?.[1] ?? "");
  if (readings.length < 2) return null;
  const options = [
    { value: "", label: t("edge") },
    ...readings.map((reading, index) => ({
      value: reading.id,
      label: reading.name ? `${index + 1} ${reading.name}` : `${reading.kind} ${index + 1}`,
    })),
  ];
  const ready = first && second && first !== second;
  return (
    <Box mt="10px">
      <Text mb="4px">{t("Centred between")}</Text>
      <Flex gap="6px">
        <Choice label={t("First edge")} value={first} options={options} onChoose={setFirst} />
        <Choice label={t("Second edge")} value={second} options={options} onChoose={setSecond} />
        <QuietButton
          disabled={!ready}
          onClick={() => void bench.acts.record({ do: "aim_between", between: [first, second] })}
        >
          {t("Set")}
        </QuietButton>
      </Flex>
    </Box>
  );
}
