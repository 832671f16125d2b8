/* Up to four candidates for the corners, side by side: one for all corners or for each. */
import { Box, Button, chakra, Flex, Grid, Spinner, Text } from "@chakra-ui/react";
import { useState } from "react";
import { HeldButton } from "../shared/Part";
import { Window } from "../shared/Window";
import { withCorners } from "./recipes";
import type { Bench } from "./useBench";

const Picture = chakra("img");
const SEEDS = [1, 2, 3, 4];
const KINDS = ["sharp", "calm", "sharp, another draw", "calm, another draw"];
type Seeds = [number, number, number, number];

export function Candidates({ bench, regions, onClose }: { bench: Bench; regions: { corner: number; name: string }[]; onClose: () => void }) {
  const [corner, setCorner] = useState<number>();
  const now = bench.recipe.corners.seeds as Seeds;
  const corners = [...new Map(regions.map((region) => [region.corner, region.name])).entries()].sort(([a], [b]) => a - b);
  const seedsWith = (seed: number): Seeds => (corner === undefined ? [seed, seed, seed, seed] : (now.map((old, index) => (index === corner ? seed : old)) as Seeds));
  const take = (seed: number) => {
    void bench.acts.commit(withCorners(bench.acts.latest(), { seeds: seedsWith(seed) }), `candidate ${seed}`);
    onClose();
  };
  return (
    <Window title="Candidates for the corners" width="1080px" onClose={onClose}>
      <Flex gap="6px" mb="12px" role="group" aria-label="Which corner">
        <HeldButton held={corner === undefined} onClick={() => setCorner(undefined)}>
          all corners
        </HeldButton>
        {corners.map(([index, name]) => (
          <HeldButton key={index} held={corner === index} onClick={() => setCorner(index)}>
            {name}
          </HeldButton>
        ))}
      </Flex>
      <Grid templateColumns="1fr 1fr" gap="14px">
        {SEEDS.map((seed) => {
          const seeds = seedsWith(seed);
          return (
            <Box key={seed} borderWidth="1px" borderColor={seeds.join() === now.join() ? "verdigris" : "rule"} borderRadius="4px" overflow="hidden">
              <Candidate key={seeds.join()} bench={bench} seeds={seeds} seed={seed} corner={corner} />
              <Flex align="center" justify="space-between" px="10px" py="7px">
                <Text>
                  <b>{seed}</b> {KINDS[seed - 1]}
                </Text>
                <Button size="2xs" bg="verdigris" color="onVerdigris" px="12px" aria-label={`Take candidate ${seed}`} onClick={() => take(seed)}>
                  Take
                </Button>
              </Flex>
            </Box>
          );
        })}
      </Grid>
    </Window>
  );
}

/** Where a corner lies, for looking at it closely: the part of the image that is shown, in shares. */
const CLOSE: Record<number, string> = { 0: "0 0", 1: "100% 0", 2: "100% 100%", 3: "0 100%" };

function Candidate({ bench, seeds, seed, corner }: { bench: Bench; seeds: Seeds; seed: number; corner: number | undefined }) {
  const [loaded, setLoaded] = useState(false);
  const [failed, setFailed] = useState(false);
  const query = new URLSearchParams({ entry: String(bench.state.entry_id), edge: "1200", seeds: seeds.join() });
  return (
    <Flex position="relative" bg="stage" height="264px" align="center" justify="center">
      <Picture
        src={`/api/pictures/${bench.state.id}/filled.jpg?${query}`}
        alt={`Candidate ${seed}`}
        data-loaded={loaded}
        width="100%"
        height="100%"
        objectFit={corner === undefined ? "contain" : "none"}
        objectPosition={corner === undefined ? "center" : CLOSE[corner]}
        visibility={loaded ? "visible" : "hidden"}
        onLoad={() => setLoaded(true)}
        onError={() => setFailed(true)}
      />
      {!loaded && (
        <Flex position="absolute" inset="0" align="center" justify="center" gap="10px" color="onPicture">
          {failed ? "This candidate could not be made." : <><Spinner size="sm" /> being made</>}
        </Flex>
      )}
    </Flex>
  );
}
