/* What went into the bin just now, and the way back. */
import { Flex, Text } from "@chakra-ui/react";
import { t, tn } from "../shared/words";
import { QuietButton } from "../shared/Part";

export function BinnedBar({ count, onBack }: { count: number; onBack: () => void }) {
  return (
    <Flex role="status" align="center" gap="12px" px="20px" py="8px" bg="paperDeep">
      <Text>{tn("{n} version went into the bin.", "{n} versions went into the bin.", count)}</Text>
      <QuietButton onClick={onBack}>{t("Put back")}</QuietButton>
    </Flex>
  );
}
