/* A link that is told only once: to be copied and sent. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "./words";
import { QuietButton } from "./Part";
import { dayWords } from "./times";

export function OneTimeLink({ path, until }: { path: string; until: string }) {
  const [copied, setCopied] = useState(false);
  const address = window.location.origin + path;
  const copy = () =>
    void navigator.clipboard
      ?.writeText(address)
      .then(() => setCopied(true))
      .catch(() => undefined);
  return (
    <Flex direction="column" gap="4px" mt="8px" p="10px" bg="paperDeep" borderRadius="4px">
      <Flex gap="8px">
        <Input
          size="xs"
          height="28px"
          readOnly
          bg="sheet"
          borderColor="rule"
          fontFamily="mono"
          aria-label={t("The link")}
          value={address}
          onFocus={(event) => event.target.select()}
        />
        <QuietButton onClick={copy}>{t("Copy")}</QuietButton>
      </Flex>
      <Text role="status" fontSize="12px" color="inkSoft">
        {copied
          ? t("Copied.")
          : t("Send it yourself; it is shown only now, and works until {day}.", {
              day: dayWords(until),
            })}
      </Text>
    </Flex>
  );
}
