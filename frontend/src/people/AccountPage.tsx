/* One's own account: where it is signed in, and its password. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import { useMe } from "../api/me";
import { useKeys } from "../shared/keys";
import { Page } from "../shared/Page";
import { Part, QuietButton } from "../shared/Part";
import { EntranceField } from "./Entrance";
import { SignInList } from "./SignInList";

export function AccountPage() {
  const me = useMe();
  const [old, setOld] = useState("");
  const [password, setPassword] = useState("");
  const signIns = useQuery({
    queryKey: ["sign-ins"],
    queryFn: () => taken(client.GET("/api/me/sign-ins")),
  });
  const leave = useMutation({
    mutationFn: () => taken(client.POST("/api/sign-out")),
    onSuccess: () => window.location.replace("/sign-in"),
  });
  const change = useMutation({
    mutationFn: () => taken(client.POST("/api/me/password", { body: { old, new: password } })),
    onSuccess: async () => {
      setOld("");
      setPassword("");
      await signIns.refetch();
    },
  });
  useKeys(["escape"], () => navigate("/"));
  return (
    <Page
      back="/"
      kind={t("account")}
      title={me.person?.name ?? t("This computer")}
      about={me.person?.role_words}
      problem={(signIns.error ?? leave.error)?.message}
      acts={
        me.person && (
          <QuietButton height="30px" disabled={leave.isPending} onClick={() => leave.mutate()}>
            {t("Sign out")}
          </QuietButton>
        )
      }
    >
      <Box flex="1" overflowY="auto" p="20px" maxWidth="760px">
        {!me.person && (
          <Text lineHeight="1.5">
            {t(
              "You opened Sequor with its key, on the machine that it runs on: everything may be done, and no account is needed.",
            )}
          </Text>
        )}
        {me.person && (
          <>
            <Part first title={t("Where you are signed in")}>
              <SignInList
                found={signIns.data?.sign_ins ?? []}
                onEnded={() => void signIns.refetch()}
              />
            </Part>
            <Part title={t("Another password")}>
              <Flex asChild direction="column" gap="10px" maxWidth="340px">
                <form
                  onSubmit={(event) => {
                    event.preventDefault();
                    change.mutate();
                  }}
                >
                  <EntranceField
                    label={t("The password of now")}
                    known="current-password"
                    value={old}
                    onChange={setOld}
                  />
                  <EntranceField
                    label={t("Another one, of at least {n} letters", { n: me.shortest_password })}
                    known="new-password"
                    value={password}
                    onChange={setPassword}
                  />
                  {change.error && (
                    <Text role="alert" color="brick">
                      {change.error.message}
                    </Text>
                  )}
                  {change.isSuccess && (
                    <Text role="status">{t("Kept. You are signed out everywhere else.")}</Text>
                  )}
                  <QuietButton type="submit" alignSelf="flex-start" disabled={change.isPending}>
                    {t("Keep this password")}
                  </QuietButton>
                </form>
              </Flex>
            </Part>
          </>
        )}
      </Box>
    </Page>
  );
}
