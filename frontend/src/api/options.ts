/* What can be chosen, with its names, limits and defaults: lists of the server, asked for once. */
import { queryOptions, useQuery, useSuspenseQuery, type QueryClient } from "@tanstack/react-query";
import { client, taken, type FileOptions, type Options } from "./client";
import { me } from "./me";

const options = queryOptions({
  queryKey: ["options"],
  staleTime: Infinity,
  queryFn: () => taken(client.GET("/api/options")),
});
const fileOptions = queryOptions({
  queryKey: ["file-options"],
  staleTime: Infinity,
  queryFn: () => taken(client.GET("/api/file-options")),
});

export const useOptions = (): Options => useSuspenseQuery(options).data;

export const useFileOptions = (): FileOptions => useSuspenseQuery(fileOptions).data;

/** Whether they, and who asks, were answered: what asks for them by then waits for nothing. */
export const useKnown = (): boolean =>
  ![useQuery(options), useQuery(fileOptions), useQuery(me)].some(({ isPending }) => isPending);

/** Ask for them, and who asks, before anything needs them. */
export function askForOptions(queries: QueryClient) {
  void queries.prefetchQuery(options);
  void queries.prefetchQuery(fileOptions);
  void queries.prefetchQuery(me);
}
