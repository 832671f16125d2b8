/* What can be chosen, with its names, limits and defaults: lists of the server, asked for once. */
import { useSuspenseQuery } from "@tanstack/react-query";
import { client, taken, type FileOptions, type Options } from "./client";

export const useOptions = (): Options =>
  useSuspenseQuery({
    queryKey: ["options"],
    staleTime: Infinity,
    queryFn: () => taken(client.GET("/api/options")),
  }).data;

export const useFileOptions = (): FileOptions =>
  useSuspenseQuery({
    queryKey: ["file-options"],
    staleTime: Infinity,
    queryFn: () => taken(client.GET("/api/file-options")),
  }).data;
