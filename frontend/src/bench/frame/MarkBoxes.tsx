/* A button that takes the tool for boxes, or strokes, of a kind in the hand, and one that clears
   them. */
import { Flex, type FlexProps } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { HeldButton, QuietButton } from "../../shared/Part";
import type { FrameTool, Framing } from "./useFraming";

interface Props extends FlexProps {
  label: string;
  tool: FrameTool;
  /** How many there are. */
  count?: number;
  framing: Framing;
  onClear?: () => void;
}

export function MarkBoxes({ label, tool, count = 0, framing, onClear, ...rest }: Props) {
  const marking = framing.tool === tool;
  return (
    <Flex gap="6px" {...rest}>
      <HeldButton
        held={marking}
        flex="1"
        minWidth="0"
        height="auto"
        minHeight="28px"
        whiteSpace="normal"
        onClick={() => framing.setTool(marking ? undefined : tool)}
      >
        {label}
      </HeldButton>
      {count > 0 && <QuietButton onClick={onClear}>{t("Clear {count}", { count })}</QuietButton>}
    </Flex>
  );
}
