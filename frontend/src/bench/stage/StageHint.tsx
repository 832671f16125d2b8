/* One line at the foot of the stage: what was said of the last act, or what can be done next. */
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

const BY_KEY = "Enter puts a line to move by keys.";

/** What the photographer can do next. */
function hint(tool: Tool | undefined, first: boolean, placed: number, noKeys: boolean): string {
  const byKey = noKeys ? "" : ` ${BY_KEY}`;
  switch (tool) {
    case "rectangle":
      return placed
        ? `Corner ${placed + 1} of 4. Escape begins again.`
        : `Click the four corners of a window, a mirror or a picture frame.${noKeys ? "" : " Enter puts a rectangle to move by keys."}`;
    case "trace":
      return placed
        ? `${placed} ${placed === 1 ? "point" : "points"}. Double click or Enter ends the trace, Escape begins again.`
        : `Click points along something that is straight in reality and looks bent.${noKeys ? "" : " Enter puts a trace to move by keys."}`;
    case "straight":
      return `Drag along something that is level or upright${first ? ", a far horizon for example" : ""}.${byKey}`;
    case "plumb":
      return `Drag along something that should stand upright, however it lies.${byKey}`;
    case "horizon":
      return `Drag along the horizon itself: open water, a far plain.${byKey}`;
    case "set_out":
      return placed
        ? `${placed} ${placed === 1 ? "point" : "points"}. Double click or Enter ends the line, Escape begins again.`
        : `Drag a line, or click points along something bent, that bending is to set right.${byKey}`;
    case "check":
      return `Drag along something to be measured; it steers nothing.${byKey}`;
    case "level":
      return `Drag along something that should be level, however steep it looks.${byKey}`;
    default:
      return first ? "Take the line (L), then drag along something that is level or upright." : "";
  }
}
