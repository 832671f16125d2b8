/* What counts how much in weighing harm: what was chosen last, and what is kept under names. */
import { useState } from "react";
import { client, taken, type Weightings, type Weights } from "../../api/client";
import type { PresetShelf } from "../../shared/PresetPart";
import { t } from "../../shared/words";

const KEY = "sequor-weights";
const USUAL: Weights = { lost: "usual", bent: "usual", made_up: "usual", keep_foot: false };

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

function chosen(): Weights {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Weights>;
    return { ...USUAL, ...kept };
  } catch {
    return USUAL;
  }
}

/** What counts how much for this person, here and now. */
export function useWeights(): [Weights, (weights: Weights) => void] {
  const [weights, setWeights] = useState(chosen);
  return [
    weights,
    (next) => {
      localStorage.setItem(KEY, JSON.stringify(next));
      setWeights(next);
    },
  ];
}
