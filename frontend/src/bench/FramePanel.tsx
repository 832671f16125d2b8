/* The Frame step: the shape of the frame, and what it costs. */
import { Box, Button, Flex, Input, RadioGroup, Text } from "@chakra-ui/react";
import { useState } from "react";
import { withRatio } from "./recipes";
import { RecipeSlider } from "./RecipeSlider";
import type { Bench } from "./useBench";

const RATIOS: [string, string][] = [
  ["original", "As shot"],
  ["3:2", "3:2"],
  ["4:3", "4:3"],
  ["5:4", "5:4"],
  ["7:5", "7:5"],
  ["1:1", "1:1"],
  ["16:9", "16:9"],
  ["free", "Free: the largest area"],
];

export function FramePanel({ bench }: { bench: Bench }) {
  const current = bench.recipe.frame.ratio;
  const [own, setOwn] = useState("");
  const choose = (ratio: string) => void bench.commit(withRatio(bench.latest(), ratio), `frame ${ratio}`);
  const turned = current.split(":").reverse().join(":");
  return (
    <Box p="16px" overflowY="auto">
      <Text as="h2" fontSize="12px" fontWeight="600" color="inkSoft" mb="10px">
        Shape of the frame
      </Text>
      <RadioGroup.Root value={RATIOS.some(([ratio]) => ratio === current) ? current : "own"} onValueChange={({ value }) => value && value !== "own" && choose(value)} aria-label="Ratio" size="sm">
        <Flex direction="column" gap="9px">
          {RATIOS.map(([ratio, label]) => (
            <RadioGroup.Item key={ratio} value={ratio}>
              <RadioGroup.ItemHiddenInput />
              <RadioGroup.ItemIndicator borderColor="rule" _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }} />
              <RadioGroup.ItemText fontWeight="400" fontSize="13px">{label}</RadioGroup.ItemText>
            </RadioGroup.Item>
          ))}
        </Flex>
      </RadioGroup.Root>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          choose(own.trim());
        }}
      >
        <Flex gap="8px" mt="14px">
          <Input size="xs" height="30px" bg="sheet" borderColor="rule" fontFamily="mono" aria-label="Own ratio" placeholder="W:H" value={own} onChange={(event) => setOwn(event.target.value)} />
          <Button type="submit" size="xs" height="30px" variant="outline" borderColor="rule" color="ink" disabled={!own.trim()}>
            Use
          </Button>
        </Flex>
      </form>
      {current.includes(":") && (
        <Button mt="10px" size="xs" height="30px" width="100%" variant="outline" borderColor="rule" color="ink" onClick={() => choose(turned)}>
          Turn {current} to {turned}
        </Button>
      )}
      <Proportion bench={bench} />
      <Text mt="18px" color="inkSoft">
        The frame is the largest one of this shape that fits into the turned picture, so no corner is empty.
      </Text>
    </Box>
  );
}

/** Height against width, for taste. */
function Proportion({ bench }: { bench: Bench }) {
  const now = bench.recipe.proportion;
  const percent = Math.round((now - 1) * 1000) / 10;
  const words = percent === 0 ? "as it is" : `${Math.abs(percent).toFixed(1)} % ${percent > 0 ? "taller" : "flatter"}`;
  return (
    <Box mt="18px" pt="12px" borderTopWidth="1px" borderColor="rule">
      <Flex justify="space-between" align="center" mb="8px">
        <Text fontSize="12px" fontWeight="600" color="inkSoft">
          Height against width
        </Text>
        <Text fontFamily="mono" fontSize="12px">
          {words}
        </Text>
      </Flex>
      <RecipeSlider bench={bench} label="Height against width" what="proportion" value={percent} min={-20} max={20} step={0.5} centred change={(recipe, value) => ({ ...recipe, proportion: 1 + value / 100 })} />
      {percent !== 0 && (
        <Button mt="6px" size="2xs" variant="plain" px="0" color="verdigris" fontWeight="600" onClick={() => void bench.commit({ ...bench.latest(), proportion: 1 }, "proportion as it is")}>
          Back to true proportions
        </Button>
      )}
    </Box>
  );
}
