/* The steps of the job, in order; each is always within reach. */
import { t } from "../shared/words";

export const STEPS = ["lens", "measure", "frame", "corners", "export"] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = {
  lens: t("Lens"),
  measure: t("Measure"),
  frame: t("Frame"),
  corners: t("Corners"),
  export: t("Export"),
};
