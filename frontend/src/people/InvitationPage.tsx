/* A link that works once: an account of one's own, or another password. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "wouter";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import { useMe } from "../api/me";
import { NotHere } from "../shared/NotHere";
import { Entrance, EntranceField } from "./Entrance";

export function InvitationPage() {
  const { token = "" } = useParams();
  const me = useMe();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const path = { token };
  const about = useQuery({
    queryKey: ["invitation", token],
    retry: false,
    queryFn: () => taken(client.GET("/api/invitations/{token}/about", { params: { path } })),
  });
  const use = useMutation({
    mutationFn: () =>
      taken(
        client.POST("/api/invitations/{token}/use", {
          params: { path },
          body: { name: name.trim(), password },
        }),
      ),
    onSuccess: () => window.location.replace("/"),
  });
  if (about.error) return <NotHere message={about.error.message} way={false} />;
  if (!about.data) return null;
  const again = about.data.name;
  return (
    <Entrance
      title={again ? t("Another password for {name}", { name: again }) : t("Your account")}
      about={
        again
          ? t("You are signed out everywhere else then.")
          : t("{by} invites you, as {role}.", {
              by: about.data.made_by,
              role: about.data.role_words,
            })
      }
      problem={use.error?.message}
      act={again ? t("Keep this password") : t("Make my account")}
      busy={use.isPending || use.isSuccess}
      onSubmit={() => use.mutate()}
    >
      {!again && (
        <EntranceField
          label={t("Your name, as others see it")}
          known="username"
          first
          value={name}
          onChange={setName}
        />
      )}
      <EntranceField
        label={t("A password of at least {n} letters; several words hold best", {
          n: me.shortest_password,
        })}
        known="new-password"
        value={password}
        onChange={setPassword}
      />
    </Entrance>
  );
}
