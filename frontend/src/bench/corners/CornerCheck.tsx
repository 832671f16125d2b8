/* The corner check: the four corners and the four edges of the file, real pixels magnified, and the
   counted number of empty ones. */
import { Box, chakra, Flex, Grid, Spinner, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../../shared/words";
import { client, taken } from "../../api/client";
import { FlawRings } from "../stage/FlawRings";
import { useFillFacts } from "./useFillFacts";
import { SvgBox } from "../../shared/SvgBox";
import { Window } from "../../shared/Window";
import type { Bench } from "../useBench";

const Picture = chakra("img");
const POWER = 2;
const CORNER_PX = 112;
const STRIP_PX = 24;
const CHEQUER = "repeating-conic-gradient(#e2477a 0 25%, #ffffff 0 50%) 0 0 / 12px 12px";

export function CornerCheck({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const entry = bench.state.entry_id;
  const check = useQuery({
    queryKey: ["corners", bench.state.id, entry],
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/corners", {
          params: { path: { picture_id: bench.state.id }, query: { entry } },
        }),
      ),
  });
  const found = check.data;
  const judged = useFillFacts(bench).data;
  const piece = (place: string) => `${bench.state.addresses.corrected}/pieces/${place}.png`;
  const corner = (place: string) => (
    <Picture
      src={piece(place)}
      alt={t("{place} corner", { place: t(place.replace("-", " ")) })}
      width={`${CORNER_PX * POWER}px`}
      height={`${CORNER_PX * POWER}px`}
      objectFit="none"
      background={CHEQUER}
      style={{ objectFit: "fill", imageRendering: "pixelated" }}
    />
  );
  const strip = (place: "left" | "top" | "right" | "bottom", lying: boolean) => (
    <Box
      overflow="auto"
      tabIndex={0}
      role="group"
      aria-label={t("{place} edge", { place: t(place) })}
      {...(lying ? { width: "100%", minWidth: 0 } : { height: "100%", minHeight: 0 })}
    >
      <Picture
        src={piece(place)}
        alt={t("{place} edge, all along", { place: t(place) })}
        maxWidth="none"
        background={CHEQUER}
        style={{
          width: (lying ? (found?.width ?? 0) : Math.min(STRIP_PX, found?.width ?? 0)) * POWER,
          height: (lying ? Math.min(STRIP_PX, found?.height ?? 0) : (found?.height ?? 0)) * POWER,
          imageRendering: "pixelated",
        }}
      />
    </Box>
  );
  const side = `${CORNER_PX * POWER}px`;
  const thick = `${STRIP_PX * POWER + 14}px`;
  return (
    <Window title={t("Corners and edges")} width="1120px" onClose={onClose}>
      <Text
        fontFamily="mono"
        mb="12px"
        aria-live="polite"
        color={found?.empty_pixels ? "brick" : "ink"}
      >
        {found
          ? `${found.width} × ${found.height} px: ${found.words}`
          : check.error
            ? check.error.message
            : t("rendering at full size…")}
      </Text>
      {found ? (
        <Grid
          templateColumns={`${side} ${thick} minmax(0, 1fr) ${thick} ${side}`}
          templateRows={`${thick} ${side} 12px ${side} ${thick}`}
          gap="10px"
        >
          <Box gridColumn="2 / 5" gridRow="1">
            {strip("top", true)}
          </Box>
          <Box gridColumn="1" gridRow="2">
            {corner("top-left")}
          </Box>
          <Box gridColumn="5" gridRow="2">
            {corner("top-right")}
          </Box>
          <Box gridColumn="2" gridRow="2 / 5" minHeight="0" height="0" minH="100%">
            {strip("left", false)}
          </Box>
          <Flex
            gridColumn="3"
            gridRow="2 / 5"
            align="center"
            justify="space-between"
            direction="column"
            textAlign="center"
            minHeight="0"
            gap="8px"
          >
            <WholeFrame bench={bench} width={found.width} height={found.height} />
            <Text>
              <Text
                as="span"
                fontFamily="mono"
                fontSize="22px"
                fontWeight="600"
                mr="10px"
                color={found.empty_pixels ? "brick" : "verdigris"}
              >
                {found.empty_pixels}
              </Text>
              {t("empty pixels in the file")}
            </Text>
            {judged?.doubt_words && <Text fontSize="12.5px">{judged.doubt_words}</Text>}
            <Text color="inkSoft" fontSize="12.5px">
              {t(
                "Around it: its corners and edges, {power} times as large as life. Scroll an edge to see all of it; anything empty would show pink chequers.",
                { power: POWER },
              )}
            </Text>
          </Flex>
          <Box gridColumn="4" gridRow="2 / 5" minHeight="0" height="0" minH="100%">
            {strip("right", false)}
          </Box>
          <Box gridColumn="1" gridRow="4">
            {corner("bottom-left")}
          </Box>
          <Box gridColumn="5" gridRow="4">
            {corner("bottom-right")}
          </Box>
          <Box gridColumn="2 / 5" gridRow="5">
            {strip("bottom", true)}
          </Box>
        </Grid>
      ) : (
        <Flex height="300px" align="center" justify="center">
          {!check.error && <Spinner />}
        </Flex>
      )}
    </Window>
  );
}

/** About as wide as the frame is seen, so that rings have the size that they are to have. */
const SEEN_PX = 560;

/** The frame, small, with the places that stand out. */
function WholeFrame({ bench, width, height }: { bench: Bench; width: number; height: number }) {
  const [loaded, setLoaded] = useState(false);
  const scale = SEEN_PX / Math.max(width, height);
  const box = { left: 0, top: 0, width: width * scale, height: height * scale };
  return (
    <SvgBox
      role="img"
      aria-label={t("The frame as it will be in the file")}
      viewBox={`0 0 ${box.width} ${box.height}`}
      flex="1"
      minHeight="0"
      maxWidth="100%"
      fill="none"
      data-loaded={loaded}
    >
      <image
        href={`${bench.state.addresses.corrected}/filled.jpg`}
        width={box.width}
        height={box.height}
        onLoad={() => setLoaded(true)}
      />
      <FlawRings bench={bench} box={box} />
    </SvgBox>
  );
}
