/* How good the camera's own level is, by other pictures of the set, where it is offered. */
import { Box, Button, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { t } from "../../shared/words";
import { client, taken } from "../../api/client";
import type { Bench } from "../useBench";

export function CameraLevelBox({ bench }: { bench: Bench }) {
  const id = bench.state.id;
  const found = useQuery({
    queryKey: ["camera-level", id],
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/camera-level", {
          params: { path: { picture_id: id } },
        }),
      ),
  });
  const take = found.data?.take;
  if (!take) return null;
  return (
    <Box
      mx="12px"
      mt="9px"
      px="11px"
      py="7px"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="inkSoft"
      borderRadius="4px"
    >
      <Text as="span">{found.data?.words} </Text>
      <Button
        variant="plain"
        size="2xs"
        height="auto"
        px="0"
        fontSize="13px"
        fontWeight="600"
        color="verdigris"
        onClick={() => void bench.acts.record(take)}
      >
        {t("Read it so")}
      </Button>
    </Box>
  );
}
