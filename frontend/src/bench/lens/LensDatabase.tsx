/* Lenses of the open database: those that may have taken the picture, or those of a name. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../../shared/words";
import { client, taken } from "../../api/client";
import { Missing } from "../../shared/Missing";
import type { Bench } from "../useBench";

export function LensDatabase({ bench, onTaken }: { bench: Bench; onTaken: () => void }) {
  const [text, setText] = useState("");
  const found = useQuery({
    queryKey: ["lenses", bench.state.id, text],
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/lenses", {
          params: { path: { picture_id: bench.state.id }, query: { text } },
        }),
      ),
    placeholderData: (before) => before,
  });
  const { name, source } = bench.recipe.lens;
  const list = found.data?.lenses ?? [];
  const known = source === "database" ? name : "";
  return (
    <Box>
      {known && (
        <Text mb="8px">
          <b>{known}</b>
        </Text>
      )}
      <Input
        size="xs"
        height="28px"
        bg="sheet"
        borderColor="rule"
        placeholder={t("maker, focal length, name")}
        aria-label={t("Search for a lens")}
        autoComplete="off"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Missing asked={found} />
      {found.data && (
        <Text mt="8px" color="inkSoft">
          {text.trim()
            ? found.data.more
              ? t("The first {length} of that name", { length: list.length })
              : t("{length} of that name", { length: list.length })
            : found.data.named
              ? list.length
                ? t("{length} for {named}", { length: list.length, named: found.data.named })
                : t("No lenses for {named}", { named: found.data.named })
              : t("The file names neither camera nor lens; search for yours.")}
        </Text>
      )}
      <Flex
        as="ul"
        direction="column"
        mt="6px"
        maxHeight="180px"
        overflowY="auto"
        listStyleType="none"
      >
        {list.map((lens) => (
          <li key={lens.name}>
            <Button
              size="2xs"
              variant="plain"
              px="0"
              height="auto"
              py="3px"
              width="100%"
              justifyContent="flex-start"
              textAlign="left"
              whiteSpace="normal"
              fontWeight={lens.name === known ? "600" : "400"}
              color={lens.name === known ? "verdigris" : "ink"}
              aria-pressed={lens.name === known}
              onClick={() => {
                onTaken();
                void bench.acts.record({ do: "use_lens", name: lens.name });
              }}
            >
              {lens.name}
            </Button>
          </li>
        ))}
      </Flex>
    </Box>
  );
}
