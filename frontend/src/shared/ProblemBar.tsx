import { Button, Flex, Text } from "@chakra-ui/react";
import { t } from "./words";

/** What went wrong, what was kept and what to do, until it is dismissed. */
export function ProblemBar({ message, onClose }: { message: string; onClose: () => void }) {
  return (
    <Flex
      role="alert"
      align="center"
      gap="12px"
      px="16px"
      py="8px"
      bg="sheet"
      borderBottomWidth="1px"
      borderColor="rule"
      borderLeftWidth="4px"
      borderLeftColor="brick"
    >
      <Text flex="1">{message}</Text>
      <Button size="xs" variant="outline" borderColor="rule" color="ink" onClick={onClose}>
        {t("Understood")}
      </Button>
    </Flex>
  );
}
