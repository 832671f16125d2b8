/* The recipes of a set written beside its pictures, where those stay where they lie. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { t, tn } from "../shared/words";
import { client, taken } from "../api/client";
import { QuietButton } from "../shared/Part";

export function SidecarPart({ setId }: { setId: number }) {
  const write = useMutation({
    mutationFn: () =>
      taken(client.POST("/api/sets/{set_id}/sidecars", { params: { path: { set_id: setId } } })),
  });
  return (
    <Box mb="10px">
      <Flex gap="10px" align="center">
        <QuietButton
          title={t(
            "PICTURE.sequor.json beside every picture: whoever opens the folder goes on from it",
          )}
          disabled={write.isPending}
          onClick={() => write.mutate()}
        >
          {t("Write the recipes beside the originals")}
        </QuietButton>
        <Text color="inkSoft" role="status">
          {write.data && tn("{n} recipe written", "{n} recipes written", write.data.written)}
        </Text>
      </Flex>
      {(write.error ? [write.error.message] : (write.data?.refused ?? [])).map((reason) => (
        <Text key={reason} role="alert" color="brick" mt="6px">
          {reason}
        </Text>
      ))}
    </Box>
  );
}
