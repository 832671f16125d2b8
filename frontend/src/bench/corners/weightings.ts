/* What counts how much in weighing harm: what was chosen last, and what is kept under names. */
import { useState } from "react";
import { client, taken, type Options, type Weightings, type Weights } from "../../api/client";
import { useOptions } from "../../api/options";
import type { PresetShelf } from "../../shared/PresetPart";
import { t } from "../../shared/words";

const KEY = "sequor-weights";

const named = ({ weightings }: Weightings) =>
  weightings.map(({ id, name, weights }) => ({ id, name, options: weights }));

export const weightingPresets: PresetShelf<Weights> = {
  key: "weightings",
  example: t("never invented"),
  list: async () => named(await taken(client.GET("/api/weightings"))),
  keep: async (name, weights) =>
    named(await taken(client.POST("/api/weightings", { body: { name, weights } }))),
  forget: async (id) =>
    named(
      await taken(
        client.DELETE("/api/weightings/{weighting_id}", {
          params: { path: { weighting_id: id } },
        }),
      ),
    ),
};

/** What is kept in the window, if it can still be chosen. */
function kept({ weights, usual_weights: usual }: Options): Weights {
  try {
    const found = JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Weights>;
    const { lost, bent, made_up, keep_foot } = { ...usual, ...found };
    const known = [lost, bent, made_up].every((one) => weights.some(({ value }) => value === one));
    return known ? { lost, bent, made_up, keep_foot: Boolean(keep_foot) } : usual;
  } catch {
    return usual;
  }
}

/** What counts how much for this person, here and now. */
export function useWeights(): [Weights, (weights: Weights) => void] {
  const options = useOptions();
  const [weights, setWeights] = useState(() => kept(options));
  return [
    weights,
    (next) => {
      localStorage.setItem(KEY, JSON.stringify(next));
      setWeights(next);
    },
  ];
}
