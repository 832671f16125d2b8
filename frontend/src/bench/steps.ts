/* The steps of the job, in order; each is always within reach. */
export const STEPS = ["lens", "measure", "frame", "corners", "export"] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = {
  lens: "Lens",
  measure: "Measure",
  frame: "Frame",
  corners: "Corners",
  export: "Export",
};
