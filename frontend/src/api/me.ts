/* Who asks, and what they may do. */
import { queryOptions, useSuspenseQuery } from "@tanstack/react-query";
import { client, taken, type Me } from "./client";

export const me = queryOptions({
  queryKey: ["me"],
  staleTime: 60_000,
  queryFn: () => taken(client.GET("/api/me")),
});

export const useMe = (): Me => useSuspenseQuery(me).data;
