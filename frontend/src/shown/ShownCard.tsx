/* A picture as a client sees it among others. */
import { Button, Flex, Image, Text } from "@chakra-ui/react";
import { t, tn } from "../shared/words";
import type { ShownPicture } from "../api/client";
import { FavouriteButton } from "./FavouriteButton";

interface Props {
  picture: ShownPicture;
  onOpen: () => void;
  onMark: (on: boolean) => void;
}

export function ShownCard({ picture, onOpen, onMark }: Props) {
  const notes = picture.comments.length;
  return (
    <Flex
      direction="column"
      bg="sheet"
      borderWidth="1px"
      borderColor="rule"
      borderRadius="4px"
      overflow="hidden"
    >
      <Button
        variant="plain"
        height="232px"
        p="10px"
        bg="stage"
        borderRadius="0"
        aria-label={t("Look at {name}", { name: picture.name })}
        onClick={onOpen}
      >
        <Image src={picture.image} alt="" maxHeight="100%" maxWidth="100%" loading="lazy" />
      </Button>
      <Flex align="center" gap="8px" px="10px" py="8px">
        <Text flex="1" truncate title={picture.name}>
          {picture.name}
        </Text>
        {notes > 0 && (
          <Text color="inkSoft" fontSize="12px" whiteSpace="nowrap">
            {tn("{n} note", "{n} notes", notes)}
          </Text>
        )}
        <FavouriteButton name={picture.name} on={picture.favourite} onMark={onMark} />
      </Flex>
    </Flex>
  );
}
