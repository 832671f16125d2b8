/* The shape of the frame: a ratio, a print size, or whatever has the largest area; and height
   against width. */
import { Box, Button, Flex, Grid, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { decimal, t } from "../../shared/words";
import { useOptions } from "../../api/options";
import { HeldButton, Part, QuietButton } from "../../shared/Part";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";
import { useLook } from "../useLook";
import { MarginPart } from "./MarginPart";
import { MarkBoxes } from "./MarkBoxes";
import { PrintPart } from "./PrintPart";
import type { Framing } from "./useFraming";

export function ShapePart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { ratios } = useOptions();
  const { print_size: print } = bench.recipe.frame;
  const [own, setOwn] = useState("");
  const look = useLook(bench.acts);
  const choose = (ratio: string) => void bench.acts.record({ do: "choose_ratio", ratio });
  const { listed, turned } = bench.report.shape;
  return (
    <Box>
      <Part title={t("Ratio")} first>
        <Grid templateColumns="repeat(3, 1fr)" gap="6px" role="group" aria-label={t("Ratio")}>
          {ratios.map((ratio) => (
            <HeldButton
              key={ratio.value}
              held={!print && ratio.value === listed}
              title={ratio.hint || ratio.label}
              onClick={() => choose(ratio.value)}
              {...look({ do: "choose_ratio", ratio: ratio.value })}
            >
              {ratio.label}
            </HeldButton>
          ))}
        </Grid>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            choose(own.trim());
          }}
        >
          <Flex gap="6px" mt="8px">
            <Input
              size="xs"
              height="28px"
              bg="sheet"
              borderColor="rule"
              fontFamily="mono"
              aria-label={t("Own ratio")}
              placeholder={t("5/7, 14.4x10.88")}
              autoComplete="off"
              value={own}
              onChange={(event) => setOwn(event.target.value)}
            />
            <QuietButton type="submit" disabled={!own.trim()}>
              {t("Use")}
            </QuietButton>
          </Flex>
        </form>
        {turned && (
          <QuietButton
            mt="8px"
            width="100%"
            onClick={() => void bench.acts.record({ do: "turn_shape" })}
            {...look({ do: "turn_shape" })}
          >
            {turned}
          </QuietButton>
        )}
      </Part>
      <PrintPart bench={bench} />
      <MarginPart bench={bench} />
      <Proportion bench={bench} />
      <TrueShape bench={bench} framing={framing} />
    </Box>
  );
}

/** Height against width, for taste. */
function Proportion({ bench }: { bench: Bench }) {
  const { proportion_slider: range, proportion_step: step } = useOptions();
  const percent = (proportion: number) => Math.round((proportion - 1) * 1000) / 10;
  const now = percent(bench.recipe.proportion);
  const words =
    now === 0
      ? t("as it is")
      : now > 0
        ? t("{percent} % taller", { percent: decimal(now, 1) })
        : t("{percent} % flatter", { percent: decimal(-now, 1) });
  const set = (value: number) =>
    ({ do: "set_proportion", proportion: Number((1 + value / 100).toFixed(6)) }) as const;
  return (
    <Part title={t("Height against width")}>
      <Text fontFamily="mono" fontSize="12px" mb="6px">
        {words}
      </Text>
      <EditSlider
        bench={bench}
        label={t("Height against width")}
        home={0}
        value={now}
        min={percent(range.low)}
        max={percent(range.high)}
        step={step * 100}
        centred
        edit={set}
      />
      {now !== 0 && (
        <Button
          mt="6px"
          size="2xs"
          variant="plain"
          px="0"
          color="verdigris"
          fontWeight="600"
          onClick={() => void bench.acts.record(set(0))}
        >
          {t("Back to true proportions")}
        </Button>
      )}
    </Part>
  );
}

/** A thing that is as high as it is wide in reality: how it is stretched, and its shape back. */
function TrueShape({ bench, framing }: { bench: Bench; framing: Framing }) {
  const look = useLook(bench.acts);
  const { stretch } = bench.report.shape;
  const give = { do: "give_true_shape" } as const;
  return (
    <Part title={t("Squashed?")}>
      <MarkBoxes
        label={t("Mark something round or square")}
        tool="true_shape"
        count={bench.solution.shape ? 1 : 0}
        framing={framing}
        onClear={() => void bench.acts.record({ do: "mark_true_shape", opposite: null })}
      />
      {stretch && (
        <>
          <Text mt="6px" aria-live="polite">
            {stretch}
          </Text>
          <QuietButton
            mt="6px"
            width="100%"
            onClick={() => void bench.acts.record(give)}
            {...look(give)}
          >
            {t("Give it its shape back")}
          </QuietButton>
        </>
      )}
    </Part>
  );
}
