/* An entry of the ledger against the one that holds: beside it, or on either side of a divider. */
import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, taken, type Shown } from "../api/client";
import { FramedPicture, Pane } from "../picture/FramedPicture";

export type Way = "beside" | "divided";

const Slider = chakra("input");
const shotOf = (shown: Shown) => ({ state: shown, shown: shown.solution });

interface Props {
  pictureId: number;
  looked: number;
  head: number;
  way: Way;
}

export function Compared({ pictureId, looked, head, way }: Props) {
  const [divider, setDivider] = useState(0.5);
  const chosen = useEntry(pictureId, looked);
  const present = useEntry(pictureId, head);
  if (!chosen || !present) return null;
  const name = chosen.file.name;
  if (looked === head)
    return (
      <Flex position="absolute" inset="0">
        <Pane name="Holds now">
          {(size) => (
            <>
              <FramedPicture size={size} shot={shotOf(present)} alt={`${name}, as it is`} />
              <Tag>as it is now; choose an entry to look at it</Tag>
            </>
          )}
        </Pane>
      </Flex>
    );
  if (way === "beside")
    return (
      <Flex position="absolute" inset="0">
        <Pane name="Chosen entry">
          {(size) => (
            <>
              <FramedPicture size={size} shot={shotOf(chosen)} alt={`${name}, chosen entry`} />
              <Tag>chosen entry</Tag>
            </>
          )}
        </Pane>
        <Pane name="Holds now">
          {(size) => (
            <>
              <FramedPicture size={size} shot={shotOf(present)} alt={`${name}, as it is`} />
              <Tag>holds now</Tag>
            </>
          )}
        </Pane>
      </Flex>
    );
  return (
    <Flex position="absolute" inset="0">
      <Pane name="Divided">
        {(size) => (
          <>
            <FramedPicture size={size} shot={shotOf(chosen)} alt={`${name}, chosen entry`} />
            <FramedPicture
              size={size}
              shot={shotOf(present)}
              alt={`${name}, as it is`}
              from={divider}
            />
            <Box
              position="absolute"
              top="0"
              bottom="0"
              width="2px"
              bg="onPicture"
              style={{ left: `${divider * size.width}px` }}
            />
            <Slider
              type="range"
              min={0}
              max={1}
              step={0.01}
              value={divider}
              aria-label="Divider"
              position="absolute"
              left="0"
              bottom="10px"
              width="100%"
              onChange={(event) => setDivider(Number(event.target.value))}
            />
            <Tag>chosen entry</Tag>
            <Tag right>holds now</Tag>
          </>
        )}
      </Pane>
    </Flex>
  );
}

function useEntry(pictureId: number, entry: number): Shown | undefined {
  return useQuery({
    queryKey: ["entry", pictureId, entry],
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/entries/{entry_id}", {
          params: { path: { picture_id: pictureId, entry_id: entry } },
        }),
      ),
  }).data;
}

function Tag({ children, right }: { children: string; right?: boolean }) {
  return (
    <Text
      position="absolute"
      top="10px"
      left={right ? undefined : "12px"}
      right={right ? "12px" : undefined}
      px="8px"
      py="2px"
      bg="inkOnPicture/70"
      color="onPicture"
      borderRadius="3px"
      fontSize="12px"
    >
      {children}
    </Text>
  );
}
