/* One line at the foot of the stage: what was said of the last act, or what can be done next. */
import { t, tn } from "../../shared/words";
import { useRoom } from "../../shared/useWindow";
import type { Desk } from "../useDesk";
import { FRAME_HINTS } from "./DrawBox";
import { StageWords } from "./StageParts";
import type { Tool } from "./tools";

interface Props {
  desk: Desk;
  asShot: boolean;
  /** Nothing has been read yet. */
  empty: boolean;
  /** How many points of a reading were clicked so far. */
  placed: number;
}

export function StageHint({ desk, asShot, empty, placed }: Props) {
  const { said, tool, framing, step } = desk;
  const { coarse, slim, low } = useRoom();
  if (said)
    return (
      <StageWords role={said.refused ? "alert" : "status"} maxWidth="96%" whiteSpace="normal">
        {said.words}
      </StageWords>
    );
  if (framing.tool && !asShot) return <StageWords>{FRAME_HINTS[framing.tool]}</StageWords>;
  const measuring = step === "measure";
  if (!measuring || (!tool && !empty)) return null;
  return (
    <StageWords maxWidth="96%" width="max-content" whiteSpace="normal">
      {hint(tool, empty, placed, coarse || slim || low)}
    </StageWords>
  );
}

/** What the photographer can do next. */
function hint(tool: Tool | undefined, first: boolean, placed: number, noKeys: boolean): string {
  const byKey = noKeys
    ? ""
    : tool === "rectangle"
      ? t(" Enter puts a rectangle to move by keys.")
      : tool === "trace"
        ? t(" Enter puts a trace to move by keys.")
        : t(" Enter puts a line to move by keys.");
  switch (tool) {
    case "rectangle":
      return placed
        ? t("Corner {corner} of 4. Escape begins again.", { corner: placed + 1 })
        : t("Click the four corners of a window, a mirror or a picture frame.") + byKey;
    case "trace":
      return placed
        ? tn(
            "{n} point. Double click or Enter ends the trace, Escape begins again.",
            "{n} points. Double click or Enter ends the trace, Escape begins again.",
            placed,
          )
        : t("Click points along something that is straight in reality and looks bent.") + byKey;
    case "straight":
      return (
        (first
          ? t("Drag along something that is level or upright, a far horizon for example.")
          : t("Drag along something that is level or upright.")) + byKey
      );
    case "plumb":
      return t("Drag along something that should stand upright, however it lies.") + byKey;
    case "horizon":
      return t("Drag along the horizon itself: open water, a far plain.") + byKey;
    case "set_out":
      return placed
        ? tn(
            "{n} point. Double click or Enter ends the line, Escape begins again.",
            "{n} points. Double click or Enter ends the line, Escape begins again.",
            placed,
          )
        : t("Drag a line, or click points along something bent, that bending is to set right.") +
            byKey;
    case "check":
      return t("Drag along something to be measured; it steers nothing.") + byKey;
    case "level":
      return t("Drag along something that should be level, however steep it looks.") + byKey;
    default:
      return first
        ? t("Take the line (L), then drag along something that is level or upright.")
        : "";
  }
}
