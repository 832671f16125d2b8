/* One press finds the mixture of cropping, bending and filling that does the least harm, takes it
   and says why; what counts how much is the person's. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, taken, type Weights } from "../../api/client";
import { useOptions } from "../../api/options";
import { Tick } from "../../shared/Tick";
import { Choice, QuietButton } from "../../shared/Part";
import { PresetPart } from "../../shared/PresetPart";
import { t } from "../../shared/words";
import type { Bench } from "../useBench";
import { useWeights, weightingPresets } from "./weightings";

type Counted = "lost" | "bent" | "made_up";

const ROWS: { part: Counted; label: string }[] = [
  { part: "lost", label: t("Losing some") },
  { part: "bent", label: t("Bending") },
  { part: "made_up", label: t("Making up") },
];

export function LeastHarm({ bench }: { bench: Bench }) {
  const { state, atRest, acts, recipe } = bench;
  const [weights, setWeights] = useWeights();
  const [choosing, setChoosing] = useState(false);
  const weigh = useMutation({
    mutationFn: () =>
      taken(
        client.POST("/api/pictures/{picture_id}/least-harm", {
          params: { path: { picture_id: state.id } },
          body: { entry_id: state.entry_id, weights },
        }),
      ),
    onSuccess: ({ best }) => void acts.record(best.edit),
  });
  const found = weigh.data;
  const holds =
    found &&
    found.best.edit.bend === recipe.bend.corners &&
    found.best.edit.fill === recipe.fill.allowance;
  return (
    <Box mt="10px">
      <Flex gap="6px">
        <QuietButton
          flex="1"
          disabled={!atRest || weigh.isPending}
          title={t("Finds the mixture of cropping, bending and filling that costs least")}
          onClick={() => weigh.mutate()}
        >
          {weigh.isPending ? t("Weighing mixtures…") : t("Least harm")}
        </QuietButton>
        <QuietButton aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
          {t("What counts")}
        </QuietButton>
      </Flex>
      {choosing && <Counting weights={weights} onChange={setWeights} />}
      <Box aria-live="polite" fontSize="12px" lineHeight="1.35">
        {weigh.error && (
          <Text mt="6px" color="brick" role="alert">
            {weigh.error.message}
          </Text>
        )}
        {found && holds && !weigh.isPending && (
          <>
            <Text mt="6px">{found.words.harm}</Text>
            <Text color="inkSoft">{found.words.beside}</Text>
          </>
        )}
      </Box>
    </Box>
  );
}

function Counting({
  weights,
  onChange,
}: {
  weights: Weights;
  onChange: (weights: Weights) => void;
}) {
  const { weights: counts } = useOptions();
  return (
    <Flex direction="column" gap="5px" mt="8px" role="group" aria-label={t("What counts")}>
      {ROWS.map(({ part, label }) => (
        <Flex key={part} align="center" gap="8px">
          <Text flex="1">{label}</Text>
          <Choice
            label={t("How much {what} counts", { what: label })}
            value={weights[part]}
            options={counts}
            width="110px"
            onChoose={(value) => onChange({ ...weights, [part]: value })}
          />
        </Flex>
      ))}
      <Tick
        words={t("Never cut the foot of an upright")}
        checked={weights.keep_foot}
        onChange={(keep_foot) => onChange({ ...weights, keep_foot })}
      />
      <PresetPart shelf={weightingPresets} options={weights} onTake={onChange} />
    </Flex>
  );
}
