/* What the Frame step has in the hand and how it shows the frame; none of it belongs to the recipe.
 */
import { useState } from "react";
import type { GuideName } from "../../api/client";

export type FrameTool =
  "keep" | "aim" | "avoid" | "still" | "true_shape" | "grey" | "mend" | "still_brush" | "copy";
/** Tools that are brushes. */
export type BrushTool = "mend" | "still_brush";
export const isBrush = (tool: FrameTool | undefined): tool is BrushTool =>
  tool === "mend" || tool === "still_brush";
export type ShownGuide = GuideName | "none";

export interface Framing {
  tool: FrameTool | undefined;
  setTool: (tool: FrameTool | undefined) => void;
  guide: ShownGuide;
  setGuide: (guide: ShownGuide) => void;
  /** How much the outside of the frame is dimmed, 0 to 1. */
  dim: number;
  setDim: (share: number) => void;
  /** Half the width of the brush, in shares of the longer side of the frame. */
  brush: number;
  setBrush: (share: number) => void;
  /** Which mend is to be copied from a place, counted from 1. */
  copied: number | undefined;
  setCopied: (number: number | undefined) => void;
}

const USUAL_BRUSH = 0.015;

export function useFraming(): Framing {
  const [tool, setTool] = useState<FrameTool>();
  const [guide, setGuide] = useState<ShownGuide>("none");
  const [dim, setDim] = useState(0.66);
  const [brush, setBrush] = useState(USUAL_BRUSH);
  const [copied, setCopied] = useState<number>();
  return { tool, setTool, guide, setGuide, dim, setDim, brush, setBrush, copied, setCopied };
}
