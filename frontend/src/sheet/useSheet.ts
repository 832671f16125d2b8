/* What the contact sheet knows of its set, and what can be done to its pictures. */
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { t } from "../shared/words";
import { client, taken, type RightWord } from "../api/client";
import { useMe } from "../api/me";
import { useNews } from "../shared/useNews";
import { useUploads } from "./useUploads";

const READ_MS = 3000;
export const FIRST_SET = t("First pictures");

const SETS = queryOptions({
  queryKey: ["sets"],
  queryFn: () => taken(client.GET("/api/sets")),
});

/** @param given The set in the address; the first one without it. */
export function useSheet(given: string | undefined) {
  const queries = useQueryClient();
  const sets = useQuery(SETS);
  const setId = given ? Number(given) : sets.data?.sets[0]?.id;
  const contents = useQuery({
    queryKey: ["set", setId],
    enabled: setId !== undefined,
    queryFn: () =>
      taken(client.GET("/api/sets/{set_id}", { params: { path: { set_id: setId as number } } })),
    // What is read in the background is shown as it comes.
    refetchInterval: (query) =>
      query.state.data?.pictures.some(({ told, state }) => told === "unread" && state === "new") &&
      READ_MS,
  });
  const { served } = useMe();
  const remarks = useQuery({
    queryKey: ["set", setId, "remarks"],
    enabled: served && setId !== undefined,
    queryFn: () =>
      taken(
        client.GET("/api/sets/{set_id}/remarks", { params: { path: { set_id: setId as number } } }),
      ),
  });
  const refresh = useCallback(async () => {
    await queries.invalidateQueries({ queryKey: ["set"] });
    await queries.invalidateQueries({ queryKey: ["sets"] });
  }, [queries]);
  useNews(setId === undefined ? undefined : `set_id=${setId}`, {
    onChanged: () => void refresh(),
  });
  const targetSet = useCallback(async () => {
    // What is handed over at once may come before it is known which sets there are.
    const known = setId ?? (await queries.ensureQueryData(SETS)).sets[0]?.id;
    if (known !== undefined) return known;
    const made = await taken(client.POST("/api/sets", { body: { name: FIRST_SET } }));
    await queries.invalidateQueries({ queryKey: ["sets"] });
    return made.id;
  }, [queries, setId]);
  const uploads = useUploads(targetSet, refresh);
  const toBin = useMutation({
    mutationFn: (ids: number[]) =>
      taken(client.POST("/api/pictures/bin", { body: { picture_ids: ids } })),
    onSuccess: refresh,
  });
  const outOfBin = useMutation({
    mutationFn: (ids: number[]) =>
      taken(client.POST("/api/bin/restore", { body: { picture_ids: ids, set_ids: [] } })),
    onSuccess: async () => {
      toBin.reset();
      await refresh();
    },
  });

  return {
    ...{ sets, setId, contents, refresh, uploads, toBin, outOfBin },
    remarks: remarks.data?.remarks ?? [],
    /** What may be done with the set; everything as long as it is not known. */
    // What may be done with its pictures; nothing is held back before that is known.
    may: (right: RightWord) => contents.data?.may.includes(right) ?? true,
  };
}
