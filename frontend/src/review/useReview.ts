/* The pictures of a review: what each proposes, what it would become, what was decided. Where the
   review stands lies in the address, so that coming back goes on where it was left. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { navigate, useHistoryState } from "wouter/use-browser-location";
import { t } from "../shared/words";
import { client, taken, whole, type Edit, type PictureState, type Want } from "../api/client";
import { asRefused } from "../api/refused";
import { readProposed } from "./proposed";

export type Decision = "taken" | "refused";
export const DECIDED: Record<Decision, string> = { taken: t("inked"), refused: t("rubbed out") };

/** One act of this review: on which picture, and the entry that holds since. */
interface Done {
  id: number;
  decision: Decision;
  entry: number;
}

const UNSURE = t(
  "Sequor is not sure of this one. Shift Enter inks it all the same; → passes it over.",
);

interface Stand {
  place: number;
  /** What was decided, in the order it was: the last is undone first. */
  acts: Done[];
  seen: number[];
}

const pathOf = (id: number) => ({ params: { path: { picture_id: id } } });

export function useReview(ids: number[], want: Want) {
  const queries = useQueryClient();
  const given = useHistoryState<Stand | null>();
  const [stand, setStand] = useState<Stand>(given ?? { place: 0, acts: [], seen: [] });
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  // What was written here last may not have been read again yet.
  const entries = useRef(new Map<number, number>());
  const { place, acts, seen } = stand;
  const id = ids[place];
  const decided = new Map(acts.map((act) => [act.id, act.decision]));
  const key = (picture: number | undefined) => ["review", picture, want] as const;
  const asked = (picture: number | undefined, enabled: boolean) => ({
    queryKey: key(picture),
    enabled: picture !== undefined && enabled,
    queryFn: () => readProposed(picture as number, want),
    staleTime: Infinity,
  });
  const current = useQuery(asked(id, true));
  // The next one is read while this one is looked at.
  useQuery(asked(ids[place + 1], current.data !== undefined));

  const stands = (next: Stand) => {
    setStand(next);
    navigate(`${window.location.pathname}${window.location.search}`, {
      replace: true,
      state: next,
    });
  };
  /* One past the last picture is the end of the review. */
  const at = (wanted: number, changed: Done[] = acts) => {
    setProblem(undefined);
    const next = Math.min(Math.max(wanted, 0), ids.length);
    const passed = id === undefined || seen.includes(id) ? seen : [...seen, id];
    stands({ place: next, acts: changed, seen: passed });
  };

  const write = async (
    picture: number,
    send: () => Promise<PictureState>,
    then: (state: PictureState) => void,
  ) => {
    if (busy) return;
    setBusy(true);
    setProblem(undefined);
    try {
      const state = await send();
      entries.current.set(picture, state.entry_id);
      then(state);
    } catch (error) {
      entries.current.delete(picture);
      setProblem(asRefused(error).message);
    }
    setBusy(false);
    void queries.invalidateQueries({ queryKey: ["review", picture] });
  };

  const enter = (edits: Edit[], decision: Decision) => {
    if (id === undefined || !current.data) return;
    const based_on = entries.current.get(id) ?? current.data.state.entry_id;
    void write(
      id,
      () =>
        taken(
          client.POST("/api/pictures/{picture_id}/ledger", {
            ...pathOf(id),
            body: { based_on, edits: whole(edits) },
          }),
        ),
      (state) => at(place + 1, [...acts, { id, decision, entry: state.entry_id }]),
    );
  };

  const found = current.data?.found;
  const sure = found?.proposal.sure ?? false;
  const open = id !== undefined && !decided.has(id);
  return {
    place,
    atEnd: ids.length > 0 && id === undefined,
    reviewed: id === undefined ? undefined : current.data,
    waiting: id !== undefined && current.isFetching,
    problem: problem ?? (current.error ? asRefused(current.error).message : undefined),
    decided,
    seen,
    /** Whether Enter takes what is proposed: what is not sure needs another key. */
    takes: open && sure && Boolean(found?.take),
    /** Whether there is anything to take at all. */
    offers: open && Boolean(found?.take),
    go: (by: number) => at(place + by),
    goTo: (wanted: number) => at(wanted),
    /** What went wrong was read; a picture that could not be is asked for again. */
    dismiss: () => {
      setProblem(undefined);
      if (current.error) void current.refetch();
    },
    /** Enter: what is decided already is passed, nothing is inked twice. */
    take: (unsure = false) => {
      if (id === undefined) return;
      if (!open) return at(place + 1);
      if (!found?.take) return;
      if (sure || unsure) enter([found.take as Edit], "taken");
      else setProblem(UNSURE);
    },
    refuse: () => {
      if (!open) return;
      const edits = (found?.proposal.readings ?? []).map(
        ({ reading }) =>
          ({ do: "rub_out", points: [reading.points[0], reading.points.at(-1)] }) as Edit,
      );
      if (edits.length) enter(edits, "refused");
      else at(place + 1);
    },
    /** The last thing that was done in this review, wherever it was; it is shown. */
    undo: () => {
      const last = acts.at(-1);
      if (!last) return setProblem(t("Nothing has been done in this review yet."));
      void write(
        last.id,
        () =>
          taken(
            client.POST("/api/pictures/{picture_id}/undo", {
              ...pathOf(last.id),
              body: { based_on: last.entry },
            }),
          ),
        () => at(ids.indexOf(last.id), acts.slice(0, -1)),
      );
    },
  };
}
