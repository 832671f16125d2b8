/* Small things on the stage: what to do next, the angle in the hand, a button. */
import { Button, Text } from "@chakra-ui/react";
import type { Kind } from "../api/client";
import { clamp, type Point } from "./geometry";

/** What the photographer can do next. */
export function hint(tool: Kind | undefined, first: boolean): string {
  if (tool === "plumb") return "Drag along something that should stand upright. Enter puts a line to move by keys.";
  if (tool === "level") return `Drag along something that should be level${first ? ", a far horizon for example" : ""}. Enter puts a line to move by keys.`;
  return first ? "Choose Level or Plumb, then drag along something that should be so." : "";
}

/** The angle beside the end in the hand, never under it. */
export function Readout({ point: [x, y], text, size }: { point: Point; text: string; size: { width: number } }) {
  const width = 24 + text.length * 7.81;
  const left = clamp(x + 20, 0, size.width - width);
  return (
    <g transform={`translate(${left} ${Math.max(4, y - 46)})`} pointerEvents="none">
      <rect width={width} height="28" rx="4" fill="#1d2a38" />
      <text x="12" y="19" fill="#fffdf8" fontSize="13" fontFamily="IBM Plex Mono, monospace">
        {text}
      </text>
    </g>
  );
}

export function StageButton({ onClick, label, hint: key, id }: { onClick: () => void; label: string; hint: string; id?: string }) {
  return (
    <Button
      size="xs"
      height="28px"
      bg="sheet"
      color="ink"
      borderWidth="1px"
      borderColor="rule"
      onClick={onClick}
      onPointerDown={(event) => event.stopPropagation()}
      title={`Key ${key}`}
      data-id={id}
      fontWeight="500"
    >
      {label}
      <Text as="span" fontFamily="mono" color="inkSoft" fontSize="11px">
        {key}
      </Text>
    </Button>
  );
}
