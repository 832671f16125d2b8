/* One picture on the bench, for as long as it is there: another one has another bench. */
import { useEffect, useState, useSyncExternalStore } from "react";
import {
  client,
  taken,
  whole,
  type PictureState,
  type Recipe,
  type Report,
  type Solution,
} from "../api/client";
import { useOptions } from "../api/options";
import { proxyOf } from "../picture/proxyOf";
import { atRest } from "./store/bench";
import { openBench, type Acts, type Server } from "./store/network";
import { useTogether } from "./useTogether";

export type { Acts, Outcome } from "./store/network";

export interface Bench {
  state: PictureState;
  /** What holds or is being tried, and what is said of it. */
  recipe: Recipe;
  solution: Solution;
  report: Report;
  /** What the stage shows: the solution, or the one before while a reading is in the hand. */
  shown: Solution;
  /** True when nothing is being tried: what is shown is what is stored. */
  atRest: boolean;
  /** True while something is only looked at. */
  looking: boolean;
  /** True while the server has not answered to what is to be kept. */
  saving: boolean;
  acts: Acts;
}

/** The bench as it stands, without what is only looked at: what a control that is looked through
    shows and does must not change under the pointer. */
export function withoutLook(bench: Bench): Bench {
  const { looking, state } = bench;
  if (!looking) return bench;
  const { recipe, solution, report } = state;
  return { ...bench, recipe, solution, report };
}

export function useBench(pictureId: number) {
  const { joins } = useOptions();
  const [{ store, acts, load }] = useState(() => openBench(pictureId, serverOf(pictureId), joins));
  const now = useSyncExternalStore(store.subscribe, store.getState);

  useEffect(() => void load(), [load]);
  useEffect(() => {
    const leave = () => void acts.settle(true);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [acts]);

  const { stored, drafted, still, unanswered, problem } = now;
  const held = drafted?.draft ?? stored;
  // Worked out here, so that the bench is another one only where one of them is another.
  const [rests, looking] = [atRest(now), now.previewed !== null];
  const bench: Bench | undefined =
    stored && held
      ? {
          state: stored,
          recipe: held.recipe,
          solution: held.solution,
          report: held.report,
          shown: still ?? held.solution,
          atRest: rests,
          looking,
          saving: unanswered > 0,
          acts,
        }
      : undefined;
  const present = useTogether(pictureId, rests && unanswered === 0, load);
  return { bench, problem, present, dismiss: acts.dismiss };
}

function serverOf(pictureId: number): Server {
  const path = { picture_id: pictureId };
  return {
    load: async () => {
      const state = await taken(client.GET("/api/pictures/{picture_id}", { params: { path } }));
      // On its way while the bench is being drawn.
      new Image().src = proxyOf(state);
      return state;
    },
    draft: (based_on, edits) =>
      taken(
        client.POST("/api/pictures/{picture_id}/draft", {
          params: { path },
          body: { based_on, edits: whole(edits) },
        }),
      ),
    record: (based_on, edits, leaving) =>
      taken(
        client.POST("/api/pictures/{picture_id}/ledger", {
          params: { path },
          body: { based_on, edits: whole(edits) },
          keepalive: leaving,
        }),
      ),
    move: (way, based_on) =>
      taken(
        client.POST(`/api/pictures/{picture_id}/${way}`, { params: { path }, body: { based_on } }),
      ),
    guide: (based_on, edits, direction, ends) =>
      taken(
        client.POST("/api/pictures/{picture_id}/guide", {
          params: { path },
          body: { based_on, edits: whole(edits), direction, ends },
        }),
      ),
  };
}
