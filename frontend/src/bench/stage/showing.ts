/* How the picture can be shown: to be worked on, or as it will be delivered. */
import { t } from "../../shared/words";

export type Showing = "shot" | "corrected" | "finished" | "beside" | "divided" | "over";
type Named = [Showing, string, string];
export const SHOWINGS: Named[] = [
  ["shot", t("As shot"), t("The picture as shot, to be measured on; hold B to see it in place")],
  ["corrected", t("Corrected"), t("The corrected picture with everything that is drawn on it")],
  [
    "finished",
    t("Finished"),
    t("What the file will show: cropped, filled, bent, without marks (C)"),
  ],
];
export const COMPARED: Named[] = [
  ["beside", t("Beside"), t("As shot and finished side by side")],
  [
    "divided",
    t("Divided"),
    t("As shot and finished on either side of a divider that can be dragged"),
  ],
  ["over", t("Over"), t("As shot over the finished picture, as strong as you like")],
];
/** Whether it is worked on; else it is looked at as it will be delivered, with nothing over it. */
export const isWorked = (showing: Showing) => showing === "shot" || showing === "corrected";
