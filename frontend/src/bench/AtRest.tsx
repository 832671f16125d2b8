/* What holds, in words, for those who do not see it: said once the hand rests. */
import { VisuallyHidden } from "@chakra-ui/react";
import { t, tn } from "../shared/words";
import type { PictureState } from "../api/client";

/** Where the stage's description is. */
export const STAGE_WORDS = "stage-words";

export function AtRest({ state }: { state: PictureState }) {
  const { report, recipe } = state;
  const { roll, lean, swing, cost } = report;
  const told = [roll.applied, lean.applied, swing.applied, cost.kept, cost.filled];
  const words = `${told.filter(Boolean).join(", ")}.`;
  return (
    <VisuallyHidden>
      <p role="status" aria-label={t("What holds")}>
        {words}
      </p>
      <p id={STAGE_WORDS}>
        {tn("{n} reading", "{n} readings", recipe.readings.length)}. {words}
      </p>
    </VisuallyHidden>
  );
}
