/* The audit log: who did what, the newest first, more on request. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useInfiniteQuery } from "@tanstack/react-query";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import { QuietButton } from "../shared/Part";
import { timeWords } from "../shared/times";

const AT_ONCE = 50;

export function DeedList() {
  const deeds = useInfiniteQuery({
    queryKey: ["deeds"],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      taken(
        client.GET("/api/deeds", {
          params: { query: { limit: AT_ONCE, ...(pageParam ? { before: pageParam } : {}) } },
        }),
      ),
    getNextPageParam: ({ deeds: last }) =>
      last.length === AT_ONCE ? last[last.length - 1]?.id : undefined,
  });
  return (
    <>
      <Box role="list">
        {deeds.data?.pages
          .flatMap((page) => page.deeds)
          .map((one) => (
            <Flex key={one.id} role="listitem" gap="12px" py="4px" wrap="wrap">
              <Text fontFamily="mono" fontSize="12px" color="inkSoft" width="150px">
                {timeWords(one.at)}
              </Text>
              <Text>
                <Text as="span" fontWeight="600">
                  {one.who}
                </Text>{" "}
                {one.words}
                <Text as="span" color="inkSoft">
                  {one.about && `: ${one.about}`}
                </Text>
              </Text>
            </Flex>
          ))}
      </Box>
      {deeds.hasNextPage && (
        <QuietButton
          mt="8px"
          disabled={deeds.isFetchingNextPage}
          onClick={() => void deeds.fetchNextPage()}
        >
          {t("Show more")}
        </QuietButton>
      )}
    </>
  );
}
