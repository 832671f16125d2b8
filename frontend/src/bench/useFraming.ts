/* What the Frame step has in the hand and how it shows the frame; none of it belongs to the recipe. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, taken, type GuideName, type GuideShape } from "../api/client";

export type FrameTool = "keep" | "aim" | "avoid";
export type ShownGuide = GuideName | "none";

export interface Framing {
  tool: FrameTool | undefined;
  setTool: (tool: FrameTool | undefined) => void;
  guide: ShownGuide;
  setGuide: (guide: ShownGuide) => void;
  guides: GuideShape[];
  /** How much the outside of the frame is dimmed, 0 to 1. */
  dim: number;
  setDim: (share: number) => void;
}

export function useFraming(): Framing {
  const [tool, setTool] = useState<FrameTool>();
  const [guide, setGuide] = useState<ShownGuide>("none");
  const [dim, setDim] = useState(0.66);
  const shapes = useQuery({ queryKey: ["composition"], staleTime: Infinity, queryFn: () => taken(client.GET("/api/composition")) });
  return { tool, setTool, guide, setGuide, guides: shapes.data?.guides ?? [], dim, setDim };
}
