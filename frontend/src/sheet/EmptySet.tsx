/* A set without pictures: what can be dropped there. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { t } from "../shared/words";
import { QuietButton } from "../shared/Part";

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
        {t("Drop photographs or folders here")}
      </Text>
      <Text color="inkSoft">
        {t(
          "JPEG, raw files, TIFF, PNG, HEIC, WebP, AVIF, JPEG XL, OpenEXR and more. The originals are kept as they are.",
        )}
      </Text>
      <Button size="sm" bg="verdigris" color="onVerdigris" onClick={onChoose}>
        {t("Choose files")}
      </Button>
    </Flex>
  );
}

/** Nothing of a set is like what is looked for. */
export function NoneLikeThat({ onAll }: { onAll: () => void }) {
  return (
    <Flex align="center" gap="12px">
      <Text color="inkSoft">{t("No picture of this set is like that.")}</Text>
      <QuietButton onClick={onAll}>{t("Show all pictures")}</QuietButton>
    </Flex>
  );
}
