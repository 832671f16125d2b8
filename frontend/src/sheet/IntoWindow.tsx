/* Pictures moved or copied into another set, or given a set of their own. */
import { Button, Flex, Input, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, taken, type SetSummary } from "../api/client";
import { Choice } from "../shared/Part";
import { countWords } from "../shared/times";
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

const VERBS: Record<IntoWay, string> = { move: "Move", copy: "Copy", split: "A new set of" };

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
  const what = countWords(ids.length, "picture");
  return (
    <Window title={`${VERBS[way]} ${what}`} width="440px" onClose={onClose}>
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
              aria-label="Name of the new set"
              placeholder="Name of the new set"
              value={name}
              maxLength={120}
              onChange={(event) => setName(event.target.value)}
            />
          ) : (
            <Choice
              label="Into the set"
              value={into}
              options={others.map(({ id, name: other }) => ({ value: String(id), label: other }))}
              onChoose={setInto}
            />
          )}
          <Text color="inkSoft">
            Each goes with all its versions and their ledgers. Where a set has the same picture
            already, it becomes another version of it.
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
            {way === "split" ? "Make the set" : VERBS[way]}
          </Button>
        </Flex>
      </form>
    </Window>
  );
}
