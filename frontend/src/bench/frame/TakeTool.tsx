/* A button that takes a tool of the frame in the hand, or lays it down. */
import { HeldButton } from "../../shared/Part";
import type { Framing } from "./useFraming";

export function TakeTool({
  framing,
  tool,
  children,
}: {
  framing: Framing;
  tool: "keep" | "aim" | "grey";
  children: string;
}) {
  const held = framing.tool === tool;
  return (
    <HeldButton held={held} flex="1" onClick={() => framing.setTool(held ? undefined : tool)}>
      {children}
    </HeldButton>
  );
}
