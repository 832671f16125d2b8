import { Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { t } from "./words";
import { client, type Health } from "../api/client";
import { useWaiting } from "../api/patience";

const LOOK_MS = 10_000;
const LOOK_WHILE_AWAY_MS = 1000;

/** Says that Sequor is not ready, and why, for as long as it is so; above any page. */
export function StateBar() {
  const waiting = useWaiting();
  const health = useQuery({
    queryKey: ["health"],
    refetchInterval: ({ state }) =>
      state.data?.ready === false || waiting ? LOOK_WHILE_AWAY_MS : LOOK_MS,
    // Its answer has the same shape when it is not ready.
    queryFn: async (): Promise<Health> => {
      const { data, error } = await client.GET("/api/health");
      return data ?? (error as unknown as Health);
    },
  });
  const reasons = [...(health.data?.reasons ?? []), ...(health.data?.warnings ?? [])];
  if (waiting && !reasons.length) reasons.push(t("The server does not answer at the moment."));
  if (!reasons.length) return null;
  return (
    <Flex
      role="status"
      flexShrink={0}
      px="16px"
      py="8px"
      bg="sheet"
      color="ink"
      borderBottomWidth="1px"
      borderColor="rule"
      borderLeftWidth="4px"
      borderLeftColor="brick"
    >
      <Text>
        {reasons.join(" ")}
        {waiting && t(" What you did last waits, and goes on by itself.")}
      </Text>
    </Flex>
  );
}
