/* What the Frame step has in the hand and how it shows the frame; none of it belongs to the recipe.
 */
import { useState } from "react";
import type { GuideName } from "../../api/client";

export type FrameTool = "keep" | "aim" | "avoid" | "still" | "true_shape" | "grey";
export type ShownGuide = GuideName | "none";

export interface Framing {
  tool: FrameTool | undefined;
  setTool: (tool: FrameTool | undefined) => void;
  guide: ShownGuide;
  setGuide: (guide: ShownGuide) => void;
  /** How much the outside of the frame is dimmed, 0 to 1. */
  dim: number;
  setDim: (share: number) => void;
}

export function useFraming(): Framing {
  const [tool, setTool] = useState<FrameTool>();
  const [guide, setGuide] = useState<ShownGuide>("none");
  const [dim, setDim] = useState(0.66);
  return { tool, setTool, guide, setGuide, dim, setDim };
}
