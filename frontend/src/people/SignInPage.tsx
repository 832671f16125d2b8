/* Signing in by a name and a password. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import { whereTo } from "../api/signedIn";
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
  return (
    <Entrance
      title={t("Sign in")}
      problem={enter.error?.message}
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
    </Entrance>
  );
}
