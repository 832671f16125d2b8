/* With whom a set is shared, and the links that show it to clients. */
import { Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../shared/words";
import { client, taken, type RightName, type SetSummary } from "../api/client";
import { Choice, Part, QuietButton } from "../shared/Part";
import { ClientLinks } from "./ClientLinks";
import { GiveSet } from "./GiveSet";

interface Props {
  set: SetSummary;
  /** It belongs to somebody else now. */
  onGiven: () => void;
}

export function SharingPanel({ set, onGiven }: Props) {
  const queries = useQueryClient();
  const path = { set_id: set.id };
  const key = ["sharing", set.id];
  const sharing = useQuery({
    queryKey: key,
    queryFn: () => taken(client.GET("/api/sets/{set_id}/sharing", { params: { path } })),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: key });
  const share = useMutation({
    mutationFn: ({ id, right }: { id: number; right: RightName }) =>
      taken(
        client.PUT("/api/sets/{set_id}/shares/{person_id}", {
          params: { path: { ...path, person_id: id } },
          body: { right },
        }),
      ),
    onSuccess: (now) => queries.setQueryData(key, now),
  });
  const stop = useMutation({
    mutationFn: (id: number) =>
      taken(
        client.DELETE("/api/sets/{set_id}/shares/{person_id}", {
          params: { path: { ...path, person_id: id } },
        }),
      ),
    onSuccess: (now) => queries.setQueryData(key, now),
  });
  const [chosen, setChosen] = useState<number>();
  const [right, setRight] = useState<RightName>("look");
  const { owner, shared = [], others = [], takers = [], rights = [] } = sharing.data ?? {};
  const other = others.find(({ person_id: id }) => id === chosen) ?? others[0];
  const possible = rights.filter(({ value }) => other?.rights.includes(value));
  const given = possible.some(({ value }) => value === right) ? right : "look";
  const problem = sharing.error ?? share.error ?? stop.error;
  return (
    <>
      <Part first title={t("People")}>
        <Flex mb="8px" gap="8px" align="center" wrap="wrap">
          <Text flex="1">
            {owner
              ? t("It belongs to {owner}.", { owner })
              : t("It belongs to nobody: it was made before there were accounts. Owners see it.")}
          </Text>
          <GiveSet setId={set.id} owned={Boolean(owner)} takers={takers} onGiven={onGiven} />
        </Flex>
        {shared.map((one) => (
          <Flex key={one.person_id} align="center" gap="8px" py="4px">
            <Text flex="1" truncate>
              {one.name}
            </Text>
            <Choice
              label={t("What {name} may do", { name: one.name })}
              value={one.right}
              width="190px"
              options={rights}
              onChoose={(value) => share.mutate({ id: one.person_id, right: value })}
            />
            <QuietButton onClick={() => stop.mutate(one.person_id)}>{t("No more")}</QuietButton>
          </Flex>
        ))}
        {other ? (
          <Flex align="center" gap="8px" py="4px">
            <Choice
              label={t("Whom to share it with")}
              value={String(other.person_id)}
              options={others.map((one) => ({ value: String(one.person_id), label: one.name }))}
              onChoose={(value) => setChosen(Number(value))}
            />
            <Choice
              label={t("What they may do")}
              value={given}
              width="190px"
              options={possible}
              onChoose={setRight}
            />
            <QuietButton
              disabled={share.isPending}
              onClick={() => share.mutate({ id: other.person_id, right: given })}
            >
              {t("Share")}
            </QuietButton>
          </Flex>
        ) : (
          sharing.data && <Text color="inkSoft">{t("There is nobody else to share it with.")}</Text>
        )}
      </Part>
      {problem && (
        <Text role="alert" color="brick" mt="10px">
          {problem.message}
        </Text>
      )}
      {sharing.data && (
        <ClientLinks setId={set.id} sharing={sharing.data} onChanged={() => void refresh()} />
      )}
    </>
  );
}
