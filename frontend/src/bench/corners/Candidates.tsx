/* Candidates for the corners, side by side: one for all corners or for each. */
import { Box, Button, chakra, Flex, Grid, Spinner, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../../shared/words";
import type { CandidateOption, FillCandidate } from "../../api/client";
import { useOptions } from "../../api/options";
import { givenUp } from "../../shared/images";
import { HeldButton } from "../../shared/Part";
import { Window } from "../../shared/Window";
import type { Bench } from "../useBench";

const Picture = chakra("img");

interface Props {
  bench: Bench;
  regions: { corner: number; name: string }[];
  onClose: () => void;
}

const written = (candidates: readonly FillCandidate[]): string =>
  candidates.map(({ style, draw }) => `${style}.${draw}`).join();

export function Candidates({ bench, regions, onClose }: Props) {
  const { candidates: options } = useOptions();
  const [corner, setCorner] = useState<number>();
  const now = bench.recipe.fill.candidates;
  const eachCorner = [
    ...new Map(regions.map((region) => [region.corner, region.name])).entries(),
  ].sort(([a], [b]) => a - b);
  const take = ({ candidate }: CandidateOption) => {
    void bench.acts.record({ do: "choose_candidate", corner: corner ?? null, candidate });
    onClose();
  };
  return (
    <Window title={t("Candidates for the corners")} width="1080px" onClose={onClose}>
      <Flex gap="6px" mb="12px" role="group" aria-label={t("Which corner")}>
        <HeldButton held={corner === undefined} onClick={() => setCorner(undefined)}>
          {t("all corners")}
        </HeldButton>
        {eachCorner.map(([index, name]) => (
          <HeldButton key={index} held={corner === index} onClick={() => setCorner(index)}>
            {name}
          </HeldButton>
        ))}
      </Flex>
      <Grid templateColumns="1fr 1fr" gap="14px">
        {options.map((option, index) => {
          const tried = written(
            now.map((old, place) =>
              corner === undefined || corner === place ? option.candidate : old,
            ),
          );
          return (
            <Box
              key={option.label}
              borderWidth="1px"
              borderColor={tried === written(now) ? "verdigris" : "rule"}
              borderRadius="4px"
              overflow="hidden"
            >
              <Candidate
                key={tried}
                src={`${bench.state.addresses.corrected}/filled.jpg?edge=1200&candidates=${tried}`}
                name={t("Candidate {index}", { index: index + 1 })}
                corner={corner}
              />
              <Flex align="center" justify="space-between" px="10px" py="7px">
                <Text>
                  <b>{index + 1}</b> {option.label}
                </Text>
                <Button
                  size="2xs"
                  bg="verdigris"
                  color="onVerdigris"
                  px="12px"
                  aria-label={t("Take candidate {index}", { index: index + 1 })}
                  onClick={() => take(option)}
                >
                  {t("Take")}
                </Button>
              </Flex>
            </Box>
          );
        })}
      </Grid>
    </Window>
  );
}

/**
 * Where a corner lies, for looking at it closely: the part of the image that is shown, in shares.
 */
const CLOSE = ["0 0", "100% 0", "100% 100%", "0 100%"];

function Candidate({
  src,
  name,
  corner,
}: {
  src: string;
  name: string;
  corner: number | undefined;
}) {
  const [loaded, setLoaded] = useState(false);
  const [failed, setFailed] = useState(false);
  return (
    <Flex position="relative" bg="stage" height="264px" align="center" justify="center">
      <Picture
        ref={givenUp}
        src={src}
        alt={name}
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
        <Flex
          position="absolute"
          inset="0"
          align="center"
          justify="center"
          gap="10px"
          color="onPicture"
        >
          {failed ? (
            t("This candidate could not be made.")
          ) : (
            <>
              <Spinner size="sm" />
              {t("being made")}
            </>
          )}
        </Flex>
      )}
    </Flex>
  );
}
