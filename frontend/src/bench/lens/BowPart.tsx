/* The bow of the lens: from traces, by hand, or from the open lens database. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t, tn } from "../../shared/words";
import type { Recipe } from "../../api/client";
import { useOptions } from "../../api/options";
import { Choices } from "../../shared/Choices";
import { NumberField } from "../../shared/NumberField";
import { Part } from "../../shared/Part";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";
import { LensDatabase } from "./LensDatabase";

type Source = Recipe["lens"]["source"];

export function BowPart({ bench }: { bench: Bench }) {
  const { lens_sources: sources } = useOptions();
  const { source: chosen, name } = bench.recipe.lens;
  const [browsing, setBrowsing] = useState(false);
  const source = browsing ? "database" : chosen;
  const choose = (value: Source) => {
    setBrowsing(value === "database" && !name);
    // Nothing changes before a lens is taken.
    if (value !== "database") void bench.acts.record({ do: "choose_lens_source", source: value });
    else if (name) void bench.acts.record({ do: "use_lens", name });
  };
  return (
    <Part title={t("Bow of the lens")} first>
      <Text fontFamily="mono" mb="10px" aria-live="polite">
        {bench.report.lens.bow}
      </Text>
      <Choices label={t("Bow")} value={source} options={sources} onChoose={choose} />
      <Box mt="12px">
        {source === "traces" && <FromTraces bench={bench} />}
        {source === "hand" && <ByHand bench={bench} />}
        {source === "database" && <LensDatabase bench={bench} onTaken={() => setBrowsing(false)} />}
      </Box>
    </Part>
  );
}

function FromTraces({ bench }: { bench: Bench }) {
  const { traces, source } = bench.solution.lens;
  if (source === "file")
    return (
      <Text color="inkSoft">
        {t(
          "The file brings its maker's own correction of the lens, which is taken out. Traces (T) that are drawn in Measure take its place.",
        )}
      </Text>
    );
  if (!traces)
    return (
      <Text color="inkSoft">
        {t(
          "In Measure, trace (T) something that is straight in reality and looks bent, best long and near a border. The bow that makes all traces straight is taken out.",
        )}
      </Text>
    );
  return (
    <Box>
      <Text>{tn("{n} trace", "{n} traces", traces)}</Text>
      {bench.report.lens.coefficients.map((words) => (
        <Text key={words} fontFamily="mono" fontSize="12px" color="inkSoft">
          {words}
        </Text>
      ))}
    </Box>
  );
}

function ByHand({ bench }: { bench: Bench }) {
  const { radial_slider: range, radial_step: step } = useOptions();
  const { k1 } = bench.recipe.lens;
  // In whole steps, so that the slider's numbers are exact.
  const steps = (value: number) => Math.round(value / step);
  const set = (value: number) =>
    ({ do: "set_radial", k1: Number((value * step).toFixed(9)) }) as const;
  return (
    <Box>
      <Flex justify="space-between" color="inkSoft" fontSize="12px" mb="2px">
        <span>{t("barrel")}</span>
        <span>0</span>
        <span>{t("pincushion")}</span>
      </Flex>
      <EditSlider
        bench={bench}
        label={t("Bow, from barrel to pincushion")}
        home={0}
        value={k1 / step}
        min={steps(range.low)}
        max={steps(range.high)}
        centred
        edit={set}
      />
      <Text mt="10px" mb="2px" color="inkSoft" fontSize="12px">
        {t("finely")}
      </Text>
      <Fine key={bench.state.entry_id} bench={bench} reach={steps(range.high)} step={step / 10} />
      <Flex mt="12px" gap="8px">
        <Coefficient bench={bench} name="k1" />
        <Coefficient bench={bench} name="k2" />
      </Flex>
    </Box>
  );
}

/** A tenth of the way of the slider above, about where it stands. */
function Fine({ bench, reach, step }: { bench: Bench; reach: number; step: number }) {
  const [middle] = useState(bench.recipe.lens.k1);
  const set = (value: number) =>
    ({ do: "set_radial", k1: Number((middle + value * step).toFixed(9)) }) as const;
  return (
    <EditSlider
      bench={bench}
      label={t("Bow, finely")}
      value={(bench.recipe.lens.k1 - middle) / step}
      min={-reach}
      max={reach}
      centred
      edit={set}
    />
  );
}

function Coefficient({ bench, name }: { bench: Bench; name: "k1" | "k2" }) {
  const { radial, radial_step: step } = useOptions();
  return (
    <Flex align="start" gap="6px" lineHeight="28px">
      <Text fontFamily="mono">{name}</Text>
      <NumberField
        label={t("Bow {name}", { name })}
        what={name}
        value={bench.recipe.lens[name]}
        places={4}
        signed
        step={step}
        range={radial}
        width="84px"
        onEnter={(value) =>
          void bench.acts.record(
            name === "k1" ? { do: "set_radial", k1: value } : { do: "set_radial", k2: value },
          )
        }
      />
    </Flex>
  );
}
