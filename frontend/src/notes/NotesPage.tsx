/* What clients and others said on a picture of a set, and more of that. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { t } from "../shared/words";
import { client, taken } from "../api/client";
import { useKeys } from "../shared/keys";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { NotedPicture, type Words } from "./NotedPicture";

export function NotesPage() {
  const id = Number(useParams().pictureId);
  const queries = useQueryClient();
  const path = { picture_id: id };
  const key = ["comments", id];
  const picture = useQuery({
    queryKey: ["picture", id, "look"],
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}", { params: { path } })),
  });
  const comments = useQuery({
    queryKey: key,
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}/comments", { params: { path } })),
  });
  const say = useMutation({
    mutationFn: (body: Words) =>
      taken(client.POST("/api/pictures/{picture_id}/comments", { params: { path }, body })),
    onSuccess: (now) => queries.setQueryData(key, now),
  });
  const remove = useMutation({
    mutationFn: (comment: number) =>
      taken(
        client.DELETE("/api/comments/{comment_id}", { params: { path: { comment_id: comment } } }),
      ),
    onSuccess: (now) => queries.setQueryData(key, now),
  });
  const state = picture.data;
  const back = state ? `/sets/${state.set_id}` : "/";
  useKeys(["escape"], () => navigate(back));
  return (
    <Page
      back={back}
      kind={t("notes")}
      title={state?.file.name}
      about={state?.set_name}
      problem={(picture.error ?? comments.error)?.message}
      acts={
        state?.may.includes("work") && (
          <QuietButton asChild height="30px">
            <Link to={`/pictures/${id}`}>{t("To the bench")}</Link>
          </QuietButton>
        )
      }
    >
      {state && (
        <NotedPicture
          image={`/api/pictures/${id}/entries/${state.entry_id}/picture.jpg?edge=1600`}
          alt={state.file.name}
          comments={comments.data?.comments ?? []}
          problem={(say.error ?? remove.error)?.message}
          onSay={say.mutateAsync}
          onRemove={(comment) => remove.mutate(comment)}
        />
      )}
    </Page>
  );
}
