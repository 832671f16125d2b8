/* Pictures moved or copied into another set, or given a set of their own. */
import { Button, Flex, Input, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { t, tn } from "../shared/words";
import { client, taken, type SetSummary } from "../api/client";
import { Choice } from "../shared/Part";
import { Window } from "../shared/Window";

export type IntoWay = "move" | "copy" | "split";

interface Props {
  way: IntoWay;
  setId: number;
  ids: number[];
  sets: SetSummary[];
  onClose: () => void;
  onDone: () => void;
}

const VERBS = { move: t("Move"), copy: t("Copy"), split: t("Make the set") };
const titleOf = (way: IntoWay, count: number): string => {
  if (way === "move") return tn("Move {n} picture", "Move {n} pictures", count);
  if (way === "copy") return tn("Copy {n} picture", "Copy {n} pictures", count);
  return tn("A new set of {n} picture", "A new set of {n} pictures", count);
};

export function IntoWindow({ way, setId, ids, sets, onClose, onDone }: Props) {
  const others = sets.filter(({ id }) => way === "copy" || id !== setId);
  const [into, setInto] = useState(String(others[0]?.id ?? ""));
  const [name, setName] = useState("");
  const act = useMutation({
    mutationFn: async () => {
      const body = { picture_ids: ids, set_id: Number(into) };
      if (way === "move") await taken(client.POST("/api/pictures/move", { body }));
      else if (way === "copy") await taken(client.POST("/api/pictures/copy", { body }));
      else
        await taken(
          client.POST("/api/sets/{set_id}/split", {
            params: { path: { set_id: setId } },
            body: { picture_ids: ids, name },
          }),
        );
    },
    onSuccess: () => {
      onDone();
      onClose();
    },
  });
  return (
    <Window title={titleOf(way, ids.length)} width="440px" onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          act.mutate();
        }}
      >
        <Flex direction="column" gap="10px">
          {way === "split" ? (
            <Input
              size="sm"
              autoFocus
              aria-label={t("Name of the new set")}
              placeholder={t("Name of the new set")}
              value={name}
              maxLength={120}
              onChange={(event) => setName(event.target.value)}
            />
          ) : (
            <Choice
              label={t("Into the set")}
              value={into}
              options={others.map(({ id, name: other }) => ({ value: String(id), label: other }))}
              onChoose={setInto}
            />
          )}
          <Text color="inkSoft">
            {t(
              "Each goes with all its versions and their ledgers. Where a set has the same picture already, it becomes another version of it.",
            )}
          </Text>
          {act.error && (
            <Text role="alert" color="brick">
              {act.error.message}
            </Text>
          )}
          <Button
            type="submit"
            size="sm"
            bg="verdigris"
            color="onVerdigris"
            disabled={act.isPending || (way === "split" ? !name.trim() : !into)}
          >
            {VERBS[way]}
          </Button>
        </Flex>
      </form>
    </Window>
  );
}
