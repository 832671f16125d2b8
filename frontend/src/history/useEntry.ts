/* A picture as an entry of its ledger has it. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, taken, type Shown } from "../api/client";

export const shotOf = (shown: Shown) => ({ state: shown, shown: shown.solution });

export function useEntry(pictureId: number, entry: number): Shown | undefined {
  return useQuery({
    queryKey: ["entry", pictureId, entry],
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/entries/{entry_id}", {
          params: { path: { picture_id: pictureId, entry_id: entry } },
        }),
      ),
  }).data;
}
