/* Links that show a set to clients: without an account they look, mark favourites, leave notes. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../shared/words";
import { client, taken, type Sharing } from "../api/client";
import { OneTimeLink } from "../shared/OneTimeLink";
import { Part, QuietButton } from "../shared/Part";
import { dayWords } from "../shared/times";

interface Props {
  setId: number;
  sharing: Sharing;
  onChanged: () => void;
}

export function ClientLinks({ setId, sharing, onChanged }: Props) {
  const path = { set_id: setId };
  const [label, setLabel] = useState("");
  const [day, setDay] = useState(sharing.usual_day);
  const make = useMutation({
    mutationFn: () =>
      taken(
        client.POST("/api/sets/{set_id}/links", {
          params: { path },
          body: { label: label.trim(), last_day: day },
        }),
      ),
    onSuccess: () => {
      setLabel("");
      onChanged();
    },
  });
  const end = useMutation({
    mutationFn: (id: number) =>
      taken(
        client.DELETE("/api/sets/{set_id}/links/{link_id}", {
          params: { path: { ...path, link_id: id } },
        }),
      ),
    onSuccess: onChanged,
  });
  const problem = make.error ?? end.error;
  return (
    <Part title={t("Links for clients")}>
      <Text color="inkSoft" lineHeight="1.5" mb="8px">
        {t(
          "Who has such a link sees this set as it is then, marks favourites and leaves notes on pictures, without an account.",
        )}
      </Text>
      {sharing.links.map((one) => (
        <Flex key={one.id} align="center" gap="8px" py="4px">
          <Text flex="1" truncate>
            {one.label}
          </Text>
          <Text color="inkSoft">{t("until {day_words}", { day_words: dayWords(one.until) })}</Text>
          <QuietButton disabled={end.isPending} onClick={() => end.mutate(one.id)}>
            {t("End it")}
          </QuietButton>
        </Flex>
      ))}
      <Flex asChild align="center" gap="8px" pt="4px">
        <form
          onSubmit={(event) => {
            event.preventDefault();
            make.mutate();
          }}
        >
          <Input
            size="xs"
            height="28px"
            bg="sheet"
            borderColor="rule"
            maxLength={60}
            aria-label={t("For whom the link is")}
            placeholder={t("For whom")}
            value={label}
            onChange={(event) => setLabel(event.target.value)}
          />
          <Input
            size="xs"
            height="28px"
            width="150px"
            flexShrink={0}
            bg="sheet"
            borderColor="rule"
            type="date"
            min={sharing.first_day}
            aria-label={t("The last day on which it works")}
            value={day}
            onChange={(event) => setDay(event.target.value)}
          />
          <QuietButton type="submit" disabled={!label.trim() || !day || make.isPending}>
            {t("Make a link")}
          </QuietButton>
        </form>
      </Flex>
      {make.data && <OneTimeLink path={make.data.path} until={make.data.until} />}
      {problem && (
        <Text role="alert" color="brick" mt="8px">
          {problem.message}
        </Text>
      )}
    </Part>
  );
}
