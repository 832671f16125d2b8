/* The Frame step: the shape of the frame, and where it lies. */
import { Box, Tabs } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { PlacePart } from "./PlacePart";
import { ShapePart } from "./ShapePart";
import type { Bench } from "../useBench";
import type { Framing } from "./useFraming";

const TABS = [
  ["shape", t("Shape")],
  ["place", t("Place")],
] as const;

export function FramePanel({ bench, framing }: { bench: Bench; framing: Framing }) {
  return (
    <Tabs.Root
      defaultValue="shape"
      variant="line"
      size="sm"
      display="flex"
      flexDirection="column"
      minHeight="0"
      flex="1"
      lazyMount
    >
      <Tabs.List px="10px" borderColor="rule" bg="sheet" flexShrink={0}>
        {TABS.map(([value, name]) => (
          <Tabs.Trigger
            key={value}
            value={value}
            fontSize="13px"
            color="inkSoft"
            _selected={{ color: "verdigris", fontWeight: 600 }}
          >
            {name}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Box overflowY="auto" minHeight="0">
        <Tabs.Content value="shape" p="16px">
          <ShapePart bench={bench} framing={framing} />
        </Tabs.Content>
        <Tabs.Content value="place" p="16px">
          <PlacePart bench={bench} framing={framing} />
        </Tabs.Content>
      </Box>
    </Tabs.Root>
  );
}
