/* What holds, in words, for those who do not see it: said once the hand rests. */
import { VisuallyHidden } from "@chakra-ui/react";
import type { PictureState } from "../api/client";
import { countWords } from "../shared/times";

/** Where the stage's description is. */
export const STAGE_WORDS = "stage-words";

export function AtRest({ state }: { state: PictureState }) {
  const { report, recipe } = state;
  const { roll, lean, swing, cost } = report;
  const turned = [roll, lean, swing].map(({ applied }) => applied).filter(Boolean);
  return (
    <VisuallyHidden>
      <p role="status" aria-label="What holds">
        {[...turned, cost.kept, cost.filled].join(", ")}.
      </p>
      <p id={STAGE_WORDS}>
        {countWords(recipe.readings.length, "reading")}. {[...turned, cost.kept].join(", ")}.
      </p>
    </VisuallyHidden>
  );
}
