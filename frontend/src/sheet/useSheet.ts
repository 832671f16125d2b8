/* What the contact sheet knows of its set, and what can be done to its pictures. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { client, taken } from "../api/client";
import { useUploads } from "./useUploads";

const READ_MS = 3000;
export const FIRST_SET = "First pictures";

/** @param given The set in the address; the first one without it. */
export function useSheet(given: string | undefined) {
  const queries = useQueryClient();
  const sets = useQuery({ queryKey: ["sets"], queryFn: () => taken(client.GET("/api/sets")) });
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
  const refresh = useCallback(async () => {
    await queries.invalidateQueries({ queryKey: ["set"] });
    await queries.invalidateQueries({ queryKey: ["sets"] });
  }, [queries]);
  const targetSet = useCallback(async () => {
    if (setId !== undefined) return setId;
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

  return { sets, setId, contents, refresh, uploads, toBin, outOfBin };
}
