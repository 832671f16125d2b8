/* What can be drawn on the picture: its name, its key, what it is for. */
import { t } from "../../shared/words";
import { KIND_NAMES } from "../stage/ReadingMark";
import type { Tool } from "../stage/tools";

export const TOOLS: { tool: Tool; key: string; name: string; title: string }[] = [
  {
    tool: "straight",
    key: "L",
    name: t("Line"),
    title: t(
      "Along anything that is level or upright in reality: Sequor sees which by its direction",
    ),
  },
  {
    tool: "horizon",
    key: "H",
    name: KIND_NAMES.horizon,
    title: t("The line of eye level itself: open water, a far plain. It says how the camera stood"),
  },
  {
    tool: "rectangle",
    key: "R",
    name: t("Rectangle"),
    title: t("The four corners of a window, a mirror, a picture frame that faces the camera"),
  },
  {
    tool: "trace",
    key: "T",
    name: KIND_NAMES.trace,
    title: t(
      "Points along something that is straight in reality and looks bent: says how the lens bows",
    ),
  },
  {
    tool: "level",
    key: "⇧L",
    name: KIND_NAMES.level,
    title: t("Level in reality, however steep it looks"),
  },
  {
    tool: "plumb",
    key: "P",
    name: KIND_NAMES.plumb,
    title: t("Upright in reality, however it lies, or the centre line of something symmetrical"),
  },
  {
    tool: "set_out",
    key: "S",
    name: KIND_NAMES.set_out,
    title: t(
      "A line that bending makes straight, or brings to an angle of your own; it says nothing of the camera",
    ),
  },
  {
    tool: "check",
    key: "K",
    name: KIND_NAMES.check,
    title: t("A line that is measured and reported but steers nothing"),
  },
];
