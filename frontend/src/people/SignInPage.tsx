/* Signing in by a name and a password. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import { useMe } from "../api/me";
import { whereTo } from "../api/signedIn";
import { QuietButton } from "../shared/Part";
import { Entrance, EntranceField } from "./Entrance";

export function SignInPage() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const enter = useMutation({
    mutationFn: () => taken(client.POST("/api/sign-in", { body: { name, password } })),
    // The page is loaded anew: it is then that of somebody who is known.
    onSuccess: () => window.location.replace(whereTo(window.location.search)),
    onError: () => setPassword(""),
  });
  const me = useMe();
  const search = new URLSearchParams(window.location.search);
  const refused = search.has("refused") && t("The other one did not say who you are; try again.");
  const on = `/api/sign-on?${new URLSearchParams({ to: whereTo(window.location.search) })}`;
  return (
    <Entrance
      title={t("Sign in")}
      problem={enter.error?.message ?? (refused || undefined)}
      act={t("Sign in")}
      busy={enter.isPending || enter.isSuccess}
      onSubmit={() => enter.mutate()}
    >
      <EntranceField label={t("Name")} known="username" first value={name} onChange={setName} />
      <EntranceField
        label={t("Password")}
        known="current-password"
        value={password}
        onChange={setPassword}
      />
      {me.sign_on && (
        <QuietButton asChild height="38px" order={1}>
          <a href={on}>{t("Sign in by {name}", { name: me.sign_on })}</a>
        </QuietButton>
      )}
    </Entrance>
  );
}
