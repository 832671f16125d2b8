/* A set given away to another account, after a question. */
import { Flex, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import type { components } from "../api/schema";
import { Choice, QuietButton } from "../shared/Part";

interface Props {
  setId: number;
  /** Whether it belongs to anybody. */
  owned: boolean;
  /** Who may have it; nobody is no reason to offer it. */
  takers: components["schemas"]["TakerOut"][];
  onGiven: () => void;
}

export function GiveSet({ setId, owned, takers, onGiven }: Props) {
  const [asking, setAsking] = useState(false);
  const [chosen, setChosen] = useState<number>();
  const give = useMutation({
    mutationFn: (person_id: number) =>
      taken(
        client.PUT("/api/sets/{set_id}/owner", {
          params: { path: { set_id: setId } },
          body: { person_id },
        }),
      ),
    onSuccess: onGiven,
  });
  const taker = takers.find(({ person_id: id }) => id === chosen) ?? takers[0];
  if (!taker) return null;
  const { name } = taker;
  if (!asking)
    return <QuietButton onClick={() => setAsking(true)}>{t("Give it away…")}</QuietButton>;
  return (
    <>
      <Flex align="center" gap="8px" width="100%">
        <Choice
          label={t("Whom to give it to")}
          value={String(taker.person_id)}
          options={takers.map((one) => ({ value: String(one.person_id), label: one.name }))}
          onChoose={(value) => setChosen(Number(value))}
        />
        <QuietButton
          autoFocus
          color="brick"
          disabled={give.isPending}
          onClick={() => give.mutate(taker.person_id)}
        >
          {t("Give it to {name}", { name })}
        </QuietButton>
        <QuietButton onClick={() => setAsking(false)}>{t("Keep it")}</QuietButton>
      </Flex>
      {owned && (
        <Text color="inkSoft" fontSize="12px">
          {t(
            "Who has it now may still work on it and export. Only {name} or an owner of Sequor gives it back.",
            { name },
          )}
        </Text>
      )}
      {give.error && (
        <Text role="alert" color="brick">
          {give.error.message}
        </Text>
      )}
    </>
  );
}
