/* Files are held over the sheet. */
import { Flex, Text } from "@chakra-ui/react";
import { t } from "../shared/words";

export function LetGo({ into }: { into: string }) {
  return (
    <Flex
      position="fixed"
      inset="0"
      bg="paper/85"
      borderWidth="3px"
      borderStyle="dashed"
      borderColor="verdigris"
      align="center"
      justify="center"
      zIndex="10"
    >
      <Text fontSize="20px" fontWeight="600">
        {t("Let go to add the pictures to {into}", { into })}
      </Text>
    </Flex>
  );
}
