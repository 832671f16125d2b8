/* What can be chosen, with its names, limits and defaults: lists of the server, asked for once. */
import {
  queryOptions,
  useQueries,
  useSuspenseQuery,
  type QueryClient,
} from "@tanstack/react-query";
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

const KNOWN = [options, fileOptions, me] as const;

/** Whether they, and who asks, are there: what asks for them by then waits for nothing. */
export const useKnown = (): boolean =>
  useQueries({ queries: KNOWN.map((one) => ({ ...one, throwOnError: true })) }).every(
    ({ data }) => data !== undefined,
  );

/** Ask for them, and who asks, before anything needs them. */
export function askForOptions(queries: QueryClient) {
  KNOWN.forEach((one) => void queries.prefetchQuery(one as typeof me));
}
