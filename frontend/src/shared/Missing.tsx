/* Why a list, or a figure, is not there, and a way to ask for it again. */
import { Flex, Text } from "@chakra-ui/react";
import { t } from "./words";
import { asRefused } from "../api/refused";
import { QuietButton } from "./Part";

interface Asked {
  error: unknown;
  isFetching: boolean;
  refetch: () => unknown;
}

/** Nothing where what was asked for is there. */
export function Missing({ asked }: { asked: Asked }) {
  if (!asked.error) return null;
  return (
    <Flex role="alert" align="center" gap="8px" py="4px" fontSize="12px">
      <Text flex="1" color="brick">
        {asRefused(asked.error).message}
      </Text>
      <QuietButton
        height="24px"
        px="7px"
        disabled={asked.isFetching}
        onClick={() => void asked.refetch()}
      >
        {t("Ask again")}
      </QuietButton>
    </Flex>
  );
}
