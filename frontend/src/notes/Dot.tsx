/* The place of a note, on a picture. */
import { Flex } from "@chakra-ui/react";

interface Props {
  x: number;
  y: number;
  words: string;
  lit?: boolean;
}

export function Dot({ x, y, words, lit }: Props) {
  return (
    <Flex
      aria-hidden
      position="absolute"
      left={`${x * 100}%`}
      top={`${y * 100}%`}
      transform="translate(-50%, -50%)"
      width="24px"
      height="24px"
      align="center"
      justify="center"
      borderRadius="50%"
      borderWidth="2px"
      borderColor="sheet"
      bg={lit ? "verdigris" : "ink"}
      color={lit ? "onVerdigris" : "sheet"}
      fontSize="12px"
      fontWeight="600"
      pointerEvents="none"
    >
      {words}
    </Flex>
  );
}
