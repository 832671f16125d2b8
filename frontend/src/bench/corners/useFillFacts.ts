/* What is filled in the frame that holds, and how good that is. */
import { useQuery } from "@tanstack/react-query";
import { client, taken } from "../../api/client";
import type { Bench } from "../useBench";

export function useFillFacts(bench: Bench) {
  const entry = bench.state.entry_id;
  return useQuery({
    queryKey: ["fill", bench.state.id, entry],
    enabled:
      bench.atRest && (bench.solution.cost.fill_fraction > 0 || bench.solution.mended_fraction > 0),
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/fill", {
          params: { path: { picture_id: bench.state.id }, query: { entry } },
        }),
      ),
  });
}
