/* How this Sequor is, for those who look after it: figures in words, and the last hour beside. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { navigate } from "wouter/use-browser-location";
import { client, taken } from "../api/client";
import type { components } from "../api/schema";
import { useKeys } from "../shared/keys";
import { Page } from "../shared/Page";
import { t } from "../shared/words";
import { useRoom } from "../shared/useWindow";
import { Spark } from "./Spark";

type Figure = components["schemas"]["FigureOut"];
const EVERY_MS = 10_000;

export function StatePage() {
  const state = useQuery({
    queryKey: ["state"],
    queryFn: () => taken(client.GET("/api/state")),
    refetchInterval: EVERY_MS,
  });
  useKeys(["escape"], () => navigate("/people"));
  const minutes = Math.round(state.data?.minutes ?? 0);
  return (
    <Page
      back="/people"
      kind={t("state")}
      title={t("How it is")}
      about={minutes > 0 && t("beside it the last {n} min", { n: minutes })}
      problem={state.error?.message}
    >
      <Box
        flex="1"
        overflowY="auto"
        p="20px"
        tabIndex={0}
        role="region"
        aria-label={t("How it is")}
      >
        <Box maxWidth="860px">
          {state.data?.reasons.map((reason) => (
            <Text key={reason} color="brick" lineHeight="1.5" pb="12px">
              {reason}
            </Text>
          ))}
          {state.data?.figures.map((figure) => (
            <FigureRow key={figure.name} figure={figure} />
          ))}
        </Box>
      </Box>
    </Page>
  );
}

function FigureRow({ figure }: { figure: Figure }) {
  const { slim } = useRoom();
  return (
    <Flex
      align={slim ? "stretch" : "center"}
      direction={slim ? "column" : "row"}
      gap={slim ? "6px" : "20px"}
      py="12px"
      borderBottom="1px solid"
      borderColor="ruleFaint"
    >
      <Box flex="1" minWidth="0">
        <Text fontWeight="600">{figure.name}</Text>
        <Text color="inkSoft" lineHeight="1.45">
          {figure.about}
        </Text>
      </Box>
      <Text width={slim ? undefined : "210px"} color={figure.good ? undefined : "brick"}>
        {figure.good ? figure.said : t("{said}: look at it", { said: figure.said })}
      </Text>
      <Spark series={figure.series} />
    </Flex>
  );
}
