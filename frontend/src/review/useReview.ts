/* The pictures of a review: what each proposes, what it would become, and what was decided. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import {
  client,
  taken,
  whole,
  type Draft,
  type Edit,
  type PictureState,
  type ProposalOut,
  type Want,
} from "../api/client";
import { asRefused } from "../api/refused";

export type Decision = "taken" | "refused";

export interface Reviewed {
  state: PictureState;
  found: ProposalOut;
  /** What it would become; undefined where there is nothing to take. */
  draft: Draft | undefined;
}

const pathOf = (id: number) => ({ params: { path: { picture_id: id } } });

/** A picture with what it proposes itself, and what it would be with that. */
async function read(id: number, want: Want): Promise<Reviewed> {
  const state = await taken(client.GET("/api/pictures/{picture_id}", pathOf(id)));
  const based_on = state.entry_id;
  const found = await taken(
    client.POST("/api/pictures/{picture_id}/proposal", {
      ...pathOf(id),
      body: { based_on, edits: [], want },
    }),
  );
  const draft = found.take
    ? await taken(
        client.POST("/api/pictures/{picture_id}/draft", {
          ...pathOf(id),
          body: { based_on, edits: whole([found.take as Edit]) },
        }),
      )
    : undefined;
  return { state, found, draft };
}

export function useReview(ids: number[], want: Want) {
  const queries = useQueryClient();
  const [place, setPlace] = useState(0);
  const [decided, setDecided] = useState<ReadonlyMap<number, Decision>>(new Map());
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const entries = useRef(new Map<number, number>());
  const id = ids[place];
  const key = (picture: number | undefined) => ["review", picture, want] as const;
  const current = useQuery({
    queryKey: key(id),
    enabled: id !== undefined,
    queryFn: () => read(id as number, want),
    staleTime: Infinity,
  });
  // The next one is read while this one is looked at.
  const next = ids[place + 1];
  useQuery({
    queryKey: key(next),
    enabled: next !== undefined && current.data !== undefined,
    queryFn: () => read(next as number, want),
    staleTime: Infinity,
  });

  const move = (wanted: (now: number) => number) => {
    setProblem(undefined);
    setPlace((now) => Math.min(Math.max(wanted(now), 0), Math.max(ids.length - 1, 0)));
  };
  const go = (by: number) => move((now) => now + by);

  const write = async (send: (based_on: number) => Promise<PictureState>, decision?: Decision) => {
    if (!current.data || id === undefined || busy) return;
    setBusy(true);
    setProblem(undefined);
    try {
      // What was written here last may not have been read again yet.
      const next = await send(entries.current.get(id) ?? current.data.state.entry_id);
      entries.current.set(id, next.entry_id);
      setDecided((now) => {
        const changed = new Map(now);
        if (decision) changed.set(id, decision);
        else changed.delete(id);
        return changed;
      });
      if (decision) go(1);
    } catch (error) {
      entries.current.delete(id);
      setProblem(asRefused(error).message);
    }
    setBusy(false);
    void queries.invalidateQueries({ queryKey: ["review", id] });
  };
  const keep = (edits: Edit[], decision: Decision) =>
    write(
      (based_on) =>
        taken(
          client.POST("/api/pictures/{picture_id}/ledger", {
            ...pathOf(id as number),
            body: { based_on, edits: whole(edits) },
          }),
        ),
      decision,
    );

  const found = current.data?.found;
  return {
    place,
    reviewed: current.data,
    waiting: current.isFetching,
    problem: problem ?? (current.error ? asRefused(current.error).message : undefined),
    decided,
    go,
    goTo: (wanted: number) => move(() => wanted),
    /** What went wrong was read; a picture that could not be is asked for again. */
    dismiss: () => {
      setProblem(undefined);
      if (current.error) void current.refetch();
    },
    take: () => void (found?.take && keep([found.take as Edit], "taken")),
    refuse: () => {
      const lines = found?.proposal.readings ?? [];
      const edits = lines.map(
        ({ reading }) =>
          ({ do: "rub_out", points: [reading.points[0], reading.points.at(-1)] }) as Edit,
      );
      if (edits.length) void keep(edits, "refused");
      else go(1);
    },
    undo: () =>
      void write((based_on) =>
        taken(
          client.POST("/api/pictures/{picture_id}/undo", {
            ...pathOf(id as number),
            body: { based_on },
          }),
        ),
      ),
  };
}
