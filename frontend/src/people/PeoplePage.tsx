/* Who may use this Sequor: accounts, links for new ones, and what everybody did. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { t, tn } from "../shared/words";
import { client, taken, type Role } from "../api/client";
import { useKeys } from "../shared/keys";
import { OneTimeLink } from "../shared/OneTimeLink";
import { Page } from "../shared/Page";
import { Choice, Part, QuietButton } from "../shared/Part";
import { dayWords } from "../shared/times";
import { DeedList } from "./DeedList";
import { PersonRow } from "./PersonRow";

export function PeoplePage() {
  const queries = useQueryClient();
  const [role, setRole] = useState<Role>("member");
  const people = useQuery({
    queryKey: ["people"],
    queryFn: () => taken(client.GET("/api/people")),
  });
  const refresh = () =>
    Promise.all(["people", "deeds"].map((name) => queries.invalidateQueries({ queryKey: [name] })));
  const invite = useMutation({
    mutationFn: () => taken(client.POST("/api/invitations", { body: { role } })),
    onSuccess: refresh,
  });
  const withdraw = useMutation({
    mutationFn: (id: number) =>
      taken(
        client.DELETE("/api/invitations/{invitation_id}", {
          params: { path: { invitation_id: id } },
        }),
      ),
    onSuccess: refresh,
  });
  useKeys(["escape"], () => navigate("/"));
  const { people: found = [], invitations = [], roles = [] } = people.data ?? {};
  return (
    <Page
      back="/"
      kind={t("people")}
      title={t("People")}
      acts={<QuietButton onClick={() => navigate("/state")}>{t("How it is")}</QuietButton>}
      about={people.data && tn("{n} account", "{n} accounts", found.length)}
      problem={(people.error ?? invite.error ?? withdraw.error)?.message}
    >
      <Box flex="1" overflowY="auto" p="20px">
        <Box maxWidth="860px">
          <Part first title={t("Accounts")}>
            {people.data && found.length === 0 && (
              <Text lineHeight="1.5" mb="10px">
                {t(
                  "Nobody has an account: only who opens Sequor with its key uses it, on this machine. Make the first owner with: bin/sequor user add NAME --role owner",
                )}
              </Text>
            )}
            {found.map((person) => (
              <PersonRow
                key={person.id}
                person={person}
                roles={roles}
                onChanged={() => void refresh()}
              />
            ))}
          </Part>
          {found.length > 0 && (
            <Part title={t("Invite somebody")}>
              <Flex gap="8px" align="center" wrap="wrap">
                <Choice
                  label={t("Role of the new account")}
                  value={role}
                  width="160px"
                  options={roles}
                  onChoose={setRole}
                />
                <QuietButton disabled={invite.isPending} onClick={() => invite.mutate()}>
                  {t("Make a link")}
                </QuietButton>
                <Text color="inkSoft">{roles.find(({ value }) => value === role)?.about}</Text>
              </Flex>
              {invite.data && <OneTimeLink path={invite.data.path} until={invite.data.until} />}
              {invitations.map((one) => (
                <Flex key={one.id} align="center" gap="12px" pt="8px">
                  <Text flex="1">
                    {one.name
                      ? t("Another password for {name}", { name: one.name })
                      : t("A new account: {role}", { role: one.role_words })}
                    {", "}
                    {t("until {day_words}", { day_words: dayWords(one.until) })}
                  </Text>
                  <QuietButton onClick={() => withdraw.mutate(one.id)}>{t("Withdraw")}</QuietButton>
                </Flex>
              ))}
            </Part>
          )}
          {found.length > 0 && (
            <Part title={t("Who did what")}>
              <DeedList />
            </Part>
          )}
        </Box>
      </Box>
    </Page>
  );
}
