/* An account: its role, another password for it, the end of it. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../shared/words";
import { client, taken, type Role } from "../api/client";
import type { components } from "../api/schema";
import { OneTimeLink } from "../shared/OneTimeLink";
import { Choice, QuietButton } from "../shared/Part";

interface Props {
  person: components["schemas"]["PersonOut"];
  roles: components["schemas"]["RoleOption"][];
  onChanged: () => void;
}

export function PersonRow({ person, roles, onChanged }: Props) {
  const path = { person_id: person.id };
  const [asking, setAsking] = useState(false);
  const change = useMutation({
    mutationFn: (role: Role) =>
      taken(client.PATCH("/api/people/{person_id}", { params: { path }, body: { role } })),
    onSettled: onChanged,
  });
  const remove = useMutation({
    mutationFn: () => taken(client.DELETE("/api/people/{person_id}", { params: { path } })),
    onSuccess: onChanged,
    onSettled: () => setAsking(false),
  });
  const reset = useMutation({
    mutationFn: () => taken(client.POST("/api/people/{person_id}/reset", { params: { path } })),
    onSuccess: onChanged,
  });
  const problem = change.error ?? remove.error ?? reset.error;
  return (
    <Box py="8px" borderBottomWidth="1px" borderColor="ruleFaint" aria-label={person.name}>
      <Flex align="center" gap="10px" wrap="wrap">
        <Text flex="1 1 140px" fontWeight="600" truncate>
          {person.name}
        </Text>
        <Choice
          label={t("Role of {name}", { name: person.name })}
          value={person.role}
          width="140px"
          options={roles}
          onChoose={(role) => change.mutate(role)}
        />
        <QuietButton disabled={reset.isPending} onClick={() => reset.mutate()}>
          {t("Link for another password")}
        </QuietButton>
        {asking ? (
          <QuietButton color="brick" autoFocus onClick={() => remove.mutate()}>
            {t("Remove {name}", { name: person.name })}
          </QuietButton>
        ) : (
          <QuietButton color="brick" onClick={() => setAsking(true)}>
            {t("Remove…")}
          </QuietButton>
        )}
      </Flex>
      {problem && (
        <Text role="alert" color="brick" mt="4px">
          {problem.message}
        </Text>
      )}
      {reset.data && <OneTimeLink path={reset.data.path} until={reset.data.until} />}
    </Box>
  );
}
