/* The browsers in which somebody is signed in, each to be ended. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import type { components } from "../api/schema";
import { QuietButton } from "../shared/Part";
import { timeWords } from "../shared/times";

interface Props {
  found: components["schemas"]["SignInOut"][];
  onEnded: () => void;
}

export function SignInList({ found, onEnded }: Props) {
  const end = useMutation({
    mutationFn: (id: number) =>
      taken(
        client.DELETE("/api/me/sign-ins/{sign_in_id}", { params: { path: { sign_in_id: id } } }),
      ),
    onSuccess: onEnded,
  });
  return (
    <Box role="list">
      {found.map((one) => (
        <Flex
          key={one.id}
          role="listitem"
          align="center"
          gap="12px"
          py="8px"
          borderBottomWidth="1px"
          borderColor="ruleFaint"
        >
          <Box flex="1" minWidth="0">
            <Text truncate title={one.browser}>
              {one.browser || t("unknown browser")}
            </Text>
            <Text color="inkSoft" fontSize="12px">
              {t("{address}, last used {time}", {
                address: one.address,
                time: timeWords(one.seen_at),
              })}
            </Text>
          </Box>
          {one.here ? (
            <Text color="verdigris" fontWeight="600">
              {t("here")}
            </Text>
          ) : (
            <QuietButton disabled={end.isPending} onClick={() => end.mutate(one.id)}>
              {t("Sign out there")}
            </QuietButton>
          )}
        </Flex>
      ))}
      {end.error && (
        <Text role="alert" color="brick">
          {end.error.message}
        </Text>
      )}
    </Box>
  );
}
