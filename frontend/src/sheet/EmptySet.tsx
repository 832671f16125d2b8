/* A set without pictures: what can be dropped there. */
import { Button, Flex, Text } from "@chakra-ui/react";

export function EmptySet({ onChoose }: { onChoose: () => void }) {
  return (
    <Flex
      direction="column"
      align="center"
      gap="12px"
      py="96px"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="rule"
      borderRadius="8px"
    >
      <Text fontSize="18px" fontWeight="600">
        Drop photographs or folders here
      </Text>
      <Text color="inkSoft">
        JPEG, raw files, TIFF, PNG, HEIC, WebP, AVIF, JPEG XL, OpenEXR and more. The originals are
        kept as they are.
      </Text>
      <Button size="sm" bg="verdigris" color="onVerdigris" onClick={onChoose}>
        Choose files
      </Button>
    </Flex>
  );
}
