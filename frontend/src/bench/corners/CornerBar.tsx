/* What becomes of the empty corners, on one bar: closed by bending, filled, and cropped, which is
   what is left. What each would cost alone stands below, before anything is done. */
import { Box, Flex, Grid, Slider, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../../shared/words";
import { client, taken } from "../../api/client";
import { Missing } from "../../shared/Missing";
import { QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";
import { LeastHarm } from "./LeastHarm";
import { useLook } from "../useLook";

const PARTS = ["bent", "filled", "cropped"] as const;
const NAMES = { bent: t("bent"), filled: t("filled"), cropped: t("cropped") };
const COLOURS = { bent: "bentPart", filled: "level", cropped: "paperDeep" };

export function CornerBar({ bench }: { bench: Bench }) {
  const { acts, atRest, saving } = bench;
  const { corners: shares } = bench.report;
  // What the hand has set, until the server has kept all of it.
  const [set, setSet] = useState<[number, number]>();
  if (set && atRest && !saving) setSet(undefined);
  const [bent, rest] = set ?? [shares.bent, shares.rest];
  const shareOut = (bending: number, filling: number) => {
    setSet([bending, filling]);
    acts.recordSoon({ do: "share_corners", bend: bending / 100, fill: filling / 100 });
  };
  const starts = { bent: 0, filled: shares.bent, cropped: 100 - shares.cropped };
  const { cost, bend: bending } = bench.report;
  if (shares.none && !set) return <Text color="inkSoft">{shares.none}</Text>;
  return (
    <Box>
      <Box position="relative" height="40px" role="group" aria-label={t("Shares of the corners")}>
        <Box
          position="absolute"
          top="13px"
          left="0"
          right="0"
          height="14px"
          borderRadius="3px"
          overflow="hidden"
          bg="paperDeep"
        >
          {PARTS.map((part) => (
            <Box
              key={part}
              position="absolute"
              top="0"
              bottom="0"
              bg={COLOURS[part]}
              style={{
                left: `${starts[part]}%`,
                width: `${shares[part]}%`,
              }}
            />
          ))}
        </Box>
        <Handle
          label={t("Closed by bending")}
          value={bent}
          colour="bentPart"
          place={{ top: "-1px", left: "0", right: "0" }}
          onSlide={(share) => shareOut(share, rest)}
        />
        {bent < 100 && (
          <Handle
            label={t("Fill allowance")}
            value={rest}
            colour="level"
            place={{ bottom: "-1px", left: `${bent}%`, right: "0" }}
            onSlide={(share) => shareOut(bent, share)}
          />
        )}
      </Box>
      <Flex columnGap="8px" wrap="wrap" mt="5px" fontSize="11.5px" color="inkSoft">
        {PARTS.map((part) => (
          <Flex key={part} align="center" gap="4px" whiteSpace="nowrap">
            <Box
              width="9px"
              height="9px"
              borderRadius="2px"
              bg={COLOURS[part]}
              borderWidth="1px"
              borderColor="rule"
            />
            {NAMES[part]} {shares[part]} %
          </Flex>
        ))}
      </Flex>
      <Text mt="8px" aria-live="polite">
        {cost.fill}
      </Text>
      {bending.stretch && <Text>{bending.stretch}</Text>}
      {!bending.stretch && <Text color="inkSoft">{cost.keep_all}</Text>}
      <Ways bench={bench} />
      <LeastHarm bench={bench} />
    </Box>
  );
}

interface HandleProps {
  label: string;
  value: number;
  colour: string;
  place: { left: string; right: string; top?: string; bottom?: string };
  onSlide: (value: number) => void;
}

/** A handle of the bar: above it, or below it for what is filled of the rest. */
function Handle({ label, value, colour, place, onSlide }: HandleProps) {
  return (
    <Slider.Root
      position="absolute"
      size="sm"
      min={0}
      max={100}
      value={[value]}
      // A slider of Chakra's has a label for each of its thumbs.
      // eslint-disable-next-line jsx-a11y/aria-proptypes
      aria-label={[label]}
      onValueChange={({ value: [now] }) => now !== undefined && onSlide(now)}
      style={place}
    >
      <Slider.Control height="16px" minHeight="16px">
        <Slider.Track bg="transparent" boxShadow="none" height="14px" />
        <Slider.Thumb index={0} borderColor={colour} boxSize="15px" />
      </Slider.Control>
    </Slider.Root>
  );
}

/** What cropping, bending or filling all would cost. */
function Ways({ bench }: { bench: Bench }) {
  const { state, atRest, acts } = bench;
  const look = useLook(acts);
  const found = useQuery({
    queryKey: ["corner-ways", state.id, state.entry_id],
    enabled: atRest,
    placeholderData: keepPreviousData,
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/corner-ways", {
          params: { path: { picture_id: state.id }, query: { entry: state.entry_id } },
        }),
      ),
  });
  return (
    <Grid mt="10px" gap="5px" role="group" aria-label={t("What each way would cost")}>
      <Missing asked={found} />
      {found.data?.ways.map(({ cost, words }) => (
        <Flex key={cost.way} gap="8px" align="center">
          <QuietButton
            width="84px"
            px="0"
            flexShrink={0}
            onClick={() => void acts.record(cost.edit)}
            {...look(cost.edit)}
          >
            {words.label}
          </QuietButton>
          <Text
            fontSize="12px"
            lineHeight="1.25"
            color="inkSoft"
            title={
              cost.way === "bend"
                ? t("The largest stretch and the largest turn anywhere")
                : undefined
            }
          >
            {words.costs.join(", ")}
          </Text>
        </Flex>
      ))}
    </Grid>
  );
}
