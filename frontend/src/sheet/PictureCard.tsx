import { Box, Checkbox, Flex, Image, Link as Anchor, Text } from "@chakra-ui/react";
import { Link } from "react-router";
import type { PictureSummary } from "../api/client";

/** One picture as it would be exported now, with its size, how far it was turned, and its state. */
export function PictureCard({
  picture,
  chosen,
  onChoose,
}: {
  picture: PictureSummary;
  chosen: boolean;
  onChoose: (chosen: boolean) => void;
}) {
  return (
    <Box position="relative">
      <Anchor
        asChild
        display="block"
        height="100%"
        bg="sheet"
        borderWidth="1px"
        borderColor={chosen ? "verdigris" : "rule"}
        borderRadius="4px"
        overflow="hidden"
        color="ink"
        _hover={{ borderColor: "verdigris", textDecoration: "none" }}
      >
        <Link to={`/pictures/${picture.id}`} aria-label={`Open ${picture.name}`}>
          <Flex bg="stage" height="212px" align="center" justify="center" p="10px">
            <Image
              src={picture.thumbnail}
              alt=""
              maxHeight="100%"
              maxWidth="100%"
              objectFit="contain"
              loading="lazy"
            />
          </Flex>
          <Box px="12px" py="9px">
            <Flex justify="space-between" gap="12px">
              <Text fontWeight="600" truncate title={picture.name}>
                {picture.name}
              </Text>
              <Text color={picture.state === "new" ? "inkSoft" : "verdigris"} whiteSpace="nowrap">
                {picture.state_words}
              </Text>
            </Flex>
            <Flex
              justify="space-between"
              gap="12px"
              color="inkSoft"
              fontFamily="mono"
              fontSize="11px"
              whiteSpace="nowrap"
            >
              <span>
                {picture.width} × {picture.height}
              </span>
              {!picture.told_words && <span>{picture.turn_words}</span>}
            </Flex>
            {picture.told_words && (
              <Text
                color={picture.told === "sure" ? "ink" : "inkSoft"}
                fontSize="12px"
                truncate
                title="As Sequor reads the picture itself"
              >
                {picture.told_words}
              </Text>
            )}
            {picture.perspective_words && (
              <Text color="inkSoft" fontFamily="mono" fontSize="11px" textAlign="right" truncate>
                {picture.perspective_words}
              </Text>
            )}
          </Box>
        </Link>
      </Anchor>
      <Checkbox.Root
        size="sm"
        position="absolute"
        left="10px"
        top="10px"
        checked={chosen}
        onCheckedChange={(change) => onChoose(change.checked === true)}
      >
        <Checkbox.HiddenInput aria-label={`Choose ${picture.name}`} />
        <Checkbox.Control
          bg="sheet"
          borderColor="inkSoft"
          _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
        />
      </Checkbox.Root>
    </Box>
  );
}
