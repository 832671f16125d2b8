/* What can be drawn on the picture, each with its key. */
import { Box, Button, Checkbox, Grid, Text } from "@chakra-ui/react";
import { KIND_NAMES, KindSign } from "../stage/ReadingMark";
import type { Tool } from "../stage/tools";

const TOOLS: { tool: Tool; key: string; name: string; title: string }[] = [
  {
    tool: "straight",
    key: "L",
    name: "Line",
    title: "Along anything that is level or upright in reality: Sequor sees which by its direction",
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
    tool: "level",
    key: "⇧L",
    name: KIND_NAMES.level,
    title: "Level in reality, however steep it looks",
  },
  {
    tool: "plumb",
    key: "P",
    name: KIND_NAMES.plumb,
    title: "Upright in reality, however it lies, or the centre line of something symmetrical",
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
    <Box px="14px" pb="8px">
      <Grid templateColumns="repeat(4, 1fr)" gap="5px">
        {TOOLS.map(({ tool: name, key, name: label, title }) => (
          <Button
            key={name}
            variant="outline"
            flexDirection="column"
            alignItems="stretch"
            justifyContent="center"
            minWidth="0"
            height="40px"
            px="6px"
            gap="1px"
            borderColor={tool === name ? "verdigris" : "rule"}
            bg={tool === name ? "highlight" : "sheet"}
            color={name === "rectangle" || name === "straight" ? "ink" : name}
            aria-pressed={tool === name}
            onClick={() => onTool(name)}
            title={title}
          >
            <Text as="span" display="flex" alignItems="center" justifyContent="space-between">
              <KindSign kind={name} />
              <Text as="span" fontFamily="mono" color="inkSoft" fontSize="11px" aria-hidden>
                {key}
              </Text>
            </Text>
            <Text as="span" fontSize="11px" lineHeight="1.3" fontWeight="500" textAlign="left">
              {label}
            </Text>
          </Button>
        ))}
      </Grid>
      <Checkbox.Root
        size="sm"
        mt="7px"
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
    </Box>
  );
}
