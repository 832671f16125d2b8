/* What a client sees who has a link: the pictures of a set, to mark and to comment on. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "wouter";
import { t, tn } from "../shared/words";
import { client, taken } from "../api/client";
import { NotHere } from "../shared/NotHere";
import { useTitle } from "../shared/useTitle";
import { ShownCard } from "./ShownCard";
import { ShownLarge } from "./ShownLarge";

export function ShownPage() {
  const { token = "" } = useParams();
  const queries = useQueryClient();
  const key = ["shown", token];
  const shown = useQuery({
    queryKey: key,
    queryFn: () => taken(client.GET("/api/shown/{token}", { params: { path: { token } } })),
  });
  const mark = useMutation({
    mutationFn: ({ id, on }: { id: number; on: boolean }) => {
      const params = { params: { path: { token, picture_id: id } } };
      const address = "/api/shown/{token}/pictures/{picture_id}/favourite";
      return taken(on ? client.PUT(address, params) : client.DELETE(address, params));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: key }),
  });
  const [large, setLarge] = useState<number>();
  useTitle(shown.data?.name);
  const { pictures = [], name = "", description = "", label = "" } = shown.data ?? {};
  const opened = pictures.find(({ id }) => id === large);
  const favourites = pictures.filter(({ favourite }) => favourite).length;
  if (shown.error) return <NotHere message={shown.error.message} way={false} />;
  return (
    <Flex direction="column" height="100%">
      <Flex
        as="header"
        align="center"
        gap="14px"
        rowGap="2px"
        px="20px"
        py="10px"
        wrap="wrap"
        borderBottomWidth="1px"
        borderColor="rule"
        bg="sheet"
      >
        <Text as="h1" fontSize="18px" fontWeight="600">
          {name}
        </Text>
        <Text color="inkSoft" flex="1" minWidth="160px">
          {description || (label && t("for {label}", { label }))}
        </Text>
        {shown.data && (
          <Text role="status">
            {tn("{n} favourite", "{n} favourites", favourites)}
            {", "}
            {tn("{n} picture", "{n} pictures", pictures.length)}
          </Text>
        )}
      </Flex>
      {opened ? (
        <ShownLarge
          token={token}
          picture={opened}
          place={pictures.indexOf(opened)}
          count={pictures.length}
          onGo={(by) => setLarge(pictures[pictures.indexOf(opened) + by]?.id ?? opened.id)}
          onMark={(on) => mark.mutate({ id: opened.id, on })}
          onClose={() => setLarge(undefined)}
        />
      ) : (
        <Box as="main" flex="1" overflowY="auto" p="20px">
          <Box
            display="grid"
            gridTemplateColumns="repeat(auto-fill, minmax(min(100%, 280px), 1fr))"
            gap="18px"
          >
            {pictures.map((picture) => (
              <ShownCard
                key={picture.id}
                picture={picture}
                onOpen={() => setLarge(picture.id)}
                onMark={(on) => mark.mutate({ id: picture.id, on })}
              />
            ))}
          </Box>
          {shown.data && pictures.length === 0 && (
            <Text color="inkSoft">{t("There are no pictures here yet; look again later.")}</Text>
          )}
          {mark.error && (
            <Text role="alert" color="brick" mt="12px">
              {mark.error.message}
            </Text>
          )}
        </Box>
      )}
    </Flex>
  );
}
