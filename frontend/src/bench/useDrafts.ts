/* What an edit would come to, asked for beside the bench: for pictures side by side. */
import { useQueries } from "@tanstack/react-query";
import { client, taken, whole, type Edit } from "../api/client";
import type { Bench } from "./useBench";

/** One answer for each edit, on top of what is stored. */
export function useDrafts({ state }: Bench, edits: readonly Edit[]) {
  return useQueries({
    queries: edits.map((edit) => ({
      queryKey: ["outcome", state.id, state.entry_id, edit],
      staleTime: Infinity,
      queryFn: () =>
        taken(
          client.POST("/api/pictures/{picture_id}/draft", {
            params: { path: { picture_id: state.id } },
            body: { based_on: state.entry_id, edits: whole([edit]) },
          }),
        ),
    })),
  });
}
