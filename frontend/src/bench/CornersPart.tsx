/* What becomes of the corners: how much may be filled, how, which candidate, and the check that no sliver is left. */
import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, taken, type FillMethod } from "../api/client";
import { Choices } from "../shared/Choices";
import { HeldButton, Part, QuietButton } from "../shared/Part";
import { Candidates } from "./Candidates";
import { CornerCheck } from "./CornerCheck";
import { withCorners } from "./recipes";
import { RecipeSlider } from "./RecipeSlider";
import type { Bench } from "./useBench";
import type { Framing } from "./useFraming";

const METHODS: [FillMethod, string][] = [
  ["patches", "From the surroundings"],
  ["mirror", "By mirroring"],
  ["colour", "With a colour"],
  ["transparent", "Leave them transparent"],
];
const ColourInput = chakra("input");

export function CornersPart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { corners } = bench.recipe;
  const { cost } = bench.solution;
  const [choosing, setChoosing] = useState(false);
  const [checking, setChecking] = useState(false);
  const filled = cost.fill_fraction > 0;
  const enter = (change: Partial<typeof corners>, what: string) => void bench.acts.commit(withCorners(bench.acts.latest(), change), what);
  const fill = useQuery({
    queryKey: ["fill", bench.state.id, bench.state.entry_id],
    enabled: bench.atRest && filled,
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}/fill", { params: { path: { picture_id: bench.state.id }, query: { entry: bench.state.entry_id } } })),
  });
  return (
    <Box>
      <Part title="Fill allowance" first>
        <RecipeSlider acts={bench.acts} entry={bench.state.entry_id} label="Fill allowance" what="fill allowance" value={Math.round(corners.allowance * 100)} min={0} max={100} change={(recipe, value) => withCorners(recipe, { allowance: value / 100 })} />
        <Flex justify="space-between" color="inkSoft" fontSize="12px" mt="2px">
          <span>crop everything</span>
          <span>keep everything</span>
        </Flex>
        <Text mt="8px" aria-live="polite">
          {cost.fill_words}
        </Text>
        {!filled && <Text color="inkSoft">Keeping everything in this shape would fill {(cost.keep_all_fraction * 100).toFixed(1)} %.</Text>}
      </Part>
      {corners.allowance > 0 && (
        <Part title="Filled">
          <Choices label="How corners are filled" value={corners.method} options={METHODS} onChoose={(method) => enter({ method }, `corners ${method}`)} />
          {corners.method === "colour" && (
            <Flex mt="8px" gap="8px" align="center">
              <ColourInput type="color" aria-label="Colour of the corners" value={corners.colour} onChange={(event) => bench.acts.commitSoon(withCorners(bench.acts.latest(), { colour: event.target.value }), "colour of the corners")} width="44px" height="28px" borderWidth="1px" borderColor="rule" borderRadius="4px" bg="sheet" />
              <Text fontFamily="mono">{bench.recipe.corners.colour}</Text>
            </Flex>
          )}
          {corners.method === "transparent" && (
            <Text mt="8px" color="inkSoft">
              PNG, TIFF, WebP and AVIF keep them so; a JPEG makes them white.
            </Text>
          )}
          {corners.method === "patches" && (
            <>
              <QuietButton mt="10px" width="100%" disabled={!filled || !bench.atRest} onClick={() => setChoosing(true)}>
                Choose among four candidates
              </QuietButton>
              <Flex mt="6px" gap="6px">
                <HeldButton held={framing.tool === "avoid"} flex="1" onClick={() => framing.setTool(framing.tool === "avoid" ? undefined : "avoid")}>
                  Mark what not to copy
                </HeldButton>
                {corners.avoid.length > 0 && <QuietButton onClick={() => enter({ avoid: [] }, "everything may be copied")}>Clear {corners.avoid.length}</QuietButton>}
              </Flex>
            </>
          )}
          {fill.data?.notes.map((note) => (
            <Text key={note} mt="10px" pl="10px" borderLeftWidth="3px" borderColor="level" role="note">
              {note}
            </Text>
          ))}
        </Part>
      )}
      <Part title="Check">
        <QuietButton width="100%" disabled={!bench.atRest} onClick={() => setChecking(true)}>
          Look into corners and edges
        </QuietButton>
        <Text mt="6px" color="inkSoft">
          At full size, every pixel counted.
        </Text>
      </Part>
      {choosing && <Candidates bench={bench} regions={fill.data?.regions ?? []} onClose={() => setChoosing(false)} />}
      {checking && <CornerCheck bench={bench} onClose={() => setChecking(false)} />}
    </Box>
  );
}
