/* One picture as large as there is room, with the client's notes on it. */
import { Flex, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { t } from "../shared/words";
import { client, taken, type ShownPicture } from "../api/client";
import { NotedPicture, type Words } from "../notes/NotedPicture";
import { useKeys } from "../shared/keys";
import { QuietButton } from "../shared/Part";
import { FavouriteButton } from "./FavouriteButton";

interface Props {
  token: string;
  picture: ShownPicture;
  place: number;
  count: number;
  onGo: (by: number) => void;
  onMark: (on: boolean) => void;
  onClose: () => void;
}

export function ShownLarge({ token, picture, place, count, onGo, onMark, onClose }: Props) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ["shown", token] });
  const say = useMutation({
    mutationFn: (body: Words) =>
      taken(
        client.POST("/api/shown/{token}/pictures/{picture_id}/comments", {
          params: { path: { token, picture_id: picture.id } },
          body,
        }),
      ),
    onSuccess: refresh,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(
        client.DELETE("/api/shown/{token}/comments/{comment_id}", {
          params: { path: { token, comment_id: id } },
        }),
      ),
    onSuccess: refresh,
  });
  useKeys(["escape"], onClose);
  useKeys(["pageup"], () => onGo(-1));
  useKeys(["pagedown"], () => onGo(1));
  return (
    <Flex as="main" direction="column" flex="1" minHeight="0">
      <Flex align="center" gap="8px" px="16px" py="8px" wrap="wrap">
        <QuietButton height="30px" onClick={onClose}>
          {t("All pictures")}
        </QuietButton>
        <Text flex="1" fontWeight="600" truncate>
          {picture.name}
        </Text>
        <FavouriteButton name={picture.name} on={picture.favourite} onMark={onMark} />
        <QuietButton height="30px" disabled={place === 0} onClick={() => onGo(-1)}>
          {t("Before")}
        </QuietButton>
        <QuietButton height="30px" disabled={place === count - 1} onClick={() => onGo(1)}>
          {t("Next")}
        </QuietButton>
      </Flex>
      <NotedPicture
        key={picture.id}
        image={`${picture.image}?edge=1600`}
        alt={picture.name}
        comments={picture.comments}
        problem={(say.error ?? remove.error)?.message}
        onSay={say.mutateAsync}
        onRemove={(id) => remove.mutate(id)}
      />
    </Flex>
  );
}
