/* The corner check: the four corners and the four edges of the file, real pixels magnified, and the
   counted number of empty ones. */
import { Box, chakra, Flex, Grid, Spinner, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { client, taken } from "../../api/client";
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
  const piece = (place: string) => `${bench.state.addresses.corrected}/pieces/${place}.png`;
  const corner = (place: string) => (
    <Picture
      src={piece(place)}
      alt={`${place.replace("-", " ")} corner`}
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
      aria-label={`${place} edge`}
      {...(lying ? { width: "100%", minWidth: 0 } : { height: "100%", minHeight: 0 })}
    >
      <Picture
        src={piece(place)}
        alt={`${place} edge, all along`}
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
    <Window title="Corners and edges" width="1120px" onClose={onClose}>
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
            : "rendering at full size…"}
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
            <Picture
              src={`${bench.state.addresses.corrected}/filled.jpg`}
              alt="The frame as it will be in the file"
              flex="1"
              minHeight="0"
              maxWidth="100%"
              objectFit="contain"
            />
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
              empty pixels in the file
            </Text>
            <Text color="inkSoft" fontSize="12.5px">
              Around it: its corners and edges, {POWER} times as large as life. Scroll an edge to
              see all of it; anything empty would show pink chequers.
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
