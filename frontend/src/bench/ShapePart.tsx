/* The shape of the frame: a ratio, a print size, or whatever has the largest area; and height against width. */
import { Box, Button, Flex, Grid, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { HeldButton, Part, QuietButton } from "../shared/Part";
import { PrintPart } from "./PrintPart";
import { withRatio } from "./recipes";
import { RecipeSlider } from "./RecipeSlider";
import type { Bench } from "./useBench";

const RATIOS: [string, string, string][] = [
  ["original", "As shot", "The shape of the picture as shot"],
  ["3:2", "3:2", "3:2"],
  ["4:3", "4:3", "4:3"],
  ["5:4", "5:4", "5:4, as 10 × 8 in"],
  ["7:5", "7:5", "7:5, as 7 × 5 in"],
  ["1:1", "1:1", "Square"],
  ["16:9", "16:9", "16:9"],
  ["1.41421:1", "A sheet", "1 to the square root of 2, as A4"],
  ["free", "Free", "Whatever shape has the largest area"],
];

export function ShapePart({ bench }: { bench: Bench }) {
  const { ratio: current, print_size: print } = bench.recipe.frame;
  const [own, setOwn] = useState("");
  const choose = (ratio: string) => void bench.acts.commit(withRatio(bench.acts.latest(), ratio), `frame ${ratio}`);
  const turned = current.split(":").reverse().join(":");
  const upright = (ratio: string) => ratio === current || ratio === turned;
  return (
    <Box>
      <Part title="Ratio" first>
        <Grid templateColumns="repeat(3, 1fr)" gap="6px" role="group" aria-label="Ratio">
          {RATIOS.map(([ratio, label, title]) => (
            <HeldButton key={ratio} held={!print && upright(ratio)} title={title} onClick={() => choose(ratio)}>
              {label}
            </HeldButton>
          ))}
        </Grid>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            choose(own.trim());
          }}
        >
          <Flex gap="6px" mt="8px">
            <Input size="xs" height="28px" bg="sheet" borderColor="rule" fontFamily="mono" aria-label="Own ratio" placeholder="W:H" autoComplete="off" value={own} onChange={(event) => setOwn(event.target.value)} />
            <QuietButton type="submit" disabled={!own.trim()}>
              Use
            </QuietButton>
          </Flex>
        </form>
        {!print && current.includes(":") && current !== "1:1" && (
          <QuietButton mt="8px" width="100%" onClick={() => choose(turned)}>
            {current.startsWith("1.41421") || turned.startsWith("1.41421") ? "Turn the sheet" : `Turn ${current} to ${turned}`}
          </QuietButton>
        )}
      </Part>
      <PrintPart bench={bench} />
      <Proportion bench={bench} />
    </Box>
  );
}

/** Height against width, for taste. */
function Proportion({ bench }: { bench: Bench }) {
  const now = bench.recipe.proportion;
  const percent = Math.round((now - 1) * 1000) / 10;
  const words = percent === 0 ? "as it is" : `${Math.abs(percent).toFixed(1)} % ${percent > 0 ? "taller" : "flatter"}`;
  return (
    <Part title="Height against width">
      <Text fontFamily="mono" fontSize="12px" mb="6px">
        {words}
      </Text>
      <RecipeSlider acts={bench.acts} entry={bench.state.entry_id} label="Height against width" what="proportion" value={percent} min={-20} max={20} step={0.5} centred change={(recipe, value) => ({ ...recipe, proportion: 1 + value / 100 })} />
      {percent !== 0 && (
        <Button mt="6px" size="2xs" variant="plain" px="0" color="verdigris" fontWeight="600" onClick={() => void bench.acts.commit({ ...bench.acts.latest(), proportion: 1 }, "proportion as it is")}>
          Back to true proportions
        </Button>
      )}
    </Part>
  );
}
