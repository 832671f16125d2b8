/* How the picture can be shown: to be worked on, or as it will be delivered. */
export type Showing = "shot" | "corrected" | "finished" | "beside" | "divided" | "over";
type Named = [Showing, string, string];
export const SHOWINGS: Named[] = [
  ["shot", "As shot", "The picture as shot, to be measured on; hold B to see it in place"],
  ["corrected", "Corrected", "The corrected picture with everything that is drawn on it"],
  ["finished", "Finished", "What the file will show: cropped, filled, bent, without marks (C)"],
];
export const COMPARED: Named[] = [
  ["beside", "Beside", "As shot and finished side by side"],
  ["divided", "Divided", "As shot and finished on either side of a divider that can be dragged"],
  ["over", "Over", "As shot over the finished picture, as strong as you like"],
];
/** Whether it is worked on; else it is looked at as it will be delivered, with nothing over it. */
export const isWorked = (showing: Showing) => showing === "shot" || showing === "corrected";
