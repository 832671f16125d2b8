/* One line at the foot of the stage: what was said of the last act, or what can be done next. */
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
      {hint(tool, empty, placed)}
    </StageWords>
  );
}

const BY_KEY = "Enter puts a line to move by keys.";

/** What the photographer can do next. */
function hint(tool: Tool | undefined, first: boolean, placed: number): string {
  switch (tool) {
    case "rectangle":
      return placed
        ? `Corner ${placed + 1} of 4. Escape begins again.`
        : "Click the four corners of a window, a mirror or a picture frame. Enter puts a rectangle to move by keys.";
    case "trace":
      return placed
        ? `${placed} ${placed === 1 ? "point" : "points"}. Double click or Enter ends the trace, Escape begins again.`
        : "Click points along something that is straight in reality and looks bent. Enter puts a trace to move by keys.";
    case "straight":
      return `Drag along something that is level or upright${first ? ", a far horizon for example" : ""}. ${BY_KEY}`;
    case "plumb":
      return `Drag along something that should stand upright, however it lies. ${BY_KEY}`;
    case "horizon":
      return `Drag along the horizon itself: open water, a far plain. ${BY_KEY}`;
    case "set_out":
      return placed
        ? `${placed} ${placed === 1 ? "point" : "points"}. Double click or Enter ends the line, Escape begins again.`
        : `Drag a line, or click points along something bent, that bending is to set right. ${BY_KEY}`;
    case "check":
      return `Drag along something to be measured; it steers nothing. ${BY_KEY}`;
    case "level":
      return `Drag along something that should be level, however steep it looks. ${BY_KEY}`;
    default:
      return first ? "Take the line (L), then drag along something that is level or upright." : "";
  }
}
