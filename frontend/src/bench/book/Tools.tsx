/* What can be drawn on the picture, each with its key. */
import { Button, Checkbox, Grid, Text } from "@chakra-ui/react";
import { KIND_NAMES, KindSign } from "../stage/ReadingMark";
import type { Tool } from "../stage/tools";

const TOOLS: { tool: Tool; key: string; name: string; title: string }[] = [
  { tool: "level", key: "L", name: KIND_NAMES.level, title: "A line that is level in reality" },
  {
    tool: "plumb",
    key: "P",
    name: KIND_NAMES.plumb,
    title: "A line that is upright in reality, or the centre line of something symmetrical",
  },
  {
    tool: "horizon",
    key: "H",
    name: KIND_NAMES.horizon,
    title: "The line of eye level itself: open water, a far plain. It says how the camera stood",
  },
  {
    tool: "rectangle",
    key: "R",
    name: "Rectangle",
    title: "The four corners of a window, a mirror, a picture frame that faces the camera",
  },
  {
    tool: "trace",
    key: "T",
    name: KIND_NAMES.trace,
    title:
      "Points along something that is straight in reality and looks bent: says how the lens bows",
  },
  {
    tool: "set_out",
    key: "S",
    name: KIND_NAMES.set_out,
    title:
      "A line that bending makes straight, or brings to an angle of your own; it says nothing of the camera",
  },
  {
    tool: "check",
    key: "K",
    name: KIND_NAMES.check,
    title: "A line that is measured and reported but steers nothing",
  },
];

interface Props {
  tool: Tool | undefined;
  onTool: (tool: Tool) => void;
  fitting: boolean;
  onFitting: (fitting: boolean) => void;
}

export function Tools({ tool, onTool, fitting, onFitting }: Props) {
  return (
    <Grid templateColumns="1.32fr 1fr 1.22fr" gap="6px" px="16px" pb="8px">
      {TOOLS.map(({ tool: name, key, name: label, title }) => (
        <Button
          key={name}
          size="xs"
          height="28px"
          variant="outline"
          justifyContent="flex-start"
          px="6px"
          gap="4px"
          fontSize="12px"
          borderColor={tool === name ? "verdigris" : "rule"}
          bg={tool === name ? "highlight" : "sheet"}
          color={name === "rectangle" ? "ink" : name}
          aria-pressed={tool === name}
          onClick={() => onTool(name)}
          title={title}
        >
          <KindSign kind={name} /> {label}
          <Text as="span" fontFamily="mono" color="inkSoft" fontSize="11px" ml="auto">
            {key}
          </Text>
        </Button>
      ))}
      <Checkbox.Root
        size="sm"
        gridColumn="span 2"
        pl="4px"
        checked={fitting}
        onCheckedChange={({ checked }) => onFitting(checked === true)}
      >
        <Checkbox.HiddenInput />
        <Checkbox.Control
          borderColor="rule"
          _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
        />
        <Checkbox.Label fontWeight="400" fontSize="12px">
          Fit new lines to edges
        </Checkbox.Label>
      </Checkbox.Root>
    </Grid>
  );
}
