/* One picture on the bench: what is stored, what is being tried, and the way from one to the other.

   Drafts are solved by the server, one request at a time, the newest recipe next, so that the picture follows the hand.
   Writes go one after the other, each based on the entry that the one before made. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { client, Refused, taken, type Action, type Axis, type Direction, type HeldAgainst, type PictureState, type Reading, type Recipe, type Solution } from "../api/client";
import type { Point } from "./geometry";

export interface Placed {
  readings: Reading[];
  said: string;
}

interface Draft {
  recipe: Recipe;
  solution?: Solution;
  /** While an end of a reading is in the hand the picture stands still: it stays as this solution has it. */
  still?: Solution;
}

/** What can be done; the same functions for as long as the picture is on the bench. */
export interface Acts {
  latest: () => Recipe;
  preview: (recipe: Recipe, options?: { still?: boolean }) => void;
  commit: (recipe: Recipe, what: string) => Promise<void>;
  commitSoon: (recipe: Recipe, what: string, options?: { still?: boolean }) => void;
  typeAngle: (axis: Axis, text: string) => Promise<string>;
  /** Do what a note offers. */
  follow: (action: Action) => Promise<void>;
  /** The readings fitted to the edges under them, and what was found; a reading as it is where there is none. */
  fitted: (readings: Reading[]) => Promise<Placed>;
  /** The four linked readings of a rectangle with these corners. */
  rectangle: (corners: [Point, Point, Point, Point], group: string, sigmaPx: number, fit: boolean) => Promise<Placed>;
  /** Take the bow of a lens of the open database. */
  takeLens: (name: string) => Promise<void>;
  /** The angle between a guide, given in the plane of the corrected picture, and the edge under it. */
  heldAgainst: (direction: Direction, ends: [Point, Point]) => Promise<HeldAgainst>;
  drop: () => void;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
}

export interface Bench {
  state: PictureState;
  /** What holds or is being tried. */
  recipe: Recipe;
  solution: Solution;
  /** What the stage shows: the solution, or the one before while a reading is in the hand. */
  shown: Solution;
  /** True when nothing is being tried: what is shown is what is stored. */
  atRest: boolean;
  acts: Acts;
}

const REST_MS = 500;

export function useBench(pictureId: number) {
  const [state, setState] = useState<PictureState>();
  const [draft, setDraft] = useState<Draft>();
  const [problem, setProblem] = useState<Refused>();
  const stored = useRef<PictureState>(undefined);
  const trying = useRef<Draft>(undefined);
  const wanted = useRef<Recipe>(undefined);
  const solving = useRef(false);
  const writes = useRef<Promise<void>>(Promise.resolve());
  const pending = useRef<{ recipe: Recipe; what: string; timer: number }>(undefined);

  const show = useCallback((next: PictureState) => {
    stored.current = next;
    setState(next);
  }, []);
  const tryOut = useCallback((next: Draft | undefined) => {
    trying.current = next;
    setDraft(next);
  }, []);
  const load = useCallback(
    () => taken(client.GET("/api/pictures/{picture_id}", { params: { path: { picture_id: pictureId } } })),
    [pictureId],
  );

  useEffect(() => {
    load().then(show, (error: unknown) => setProblem(asRefused(error)));
  }, [load, show]);

  const solveWanted = useCallback(async () => {
    if (solving.current) return;
    solving.current = true;
    while (wanted.current) {
      const recipe = wanted.current;
      wanted.current = undefined;
      try {
        const solution = await taken(
          client.POST("/api/pictures/{picture_id}/solve", { params: { path: { picture_id: pictureId } }, body: { recipe } }),
        );
        if (trying.current) tryOut({ ...trying.current, solution });
      } catch {
        // A draft that cannot be solved leaves the last good picture; entering it says why.
      }
    }
    solving.current = false;
  }, [pictureId, tryOut]);

  const latest = useCallback(() => trying.current?.recipe ?? (stored.current as PictureState).recipe, []);

  const preview = useCallback(
    (recipe: Recipe, { still = false } = {}) => {
      const before = trying.current;
      const shown = before?.still ?? before?.solution ?? stored.current?.solution;
      const next = { recipe, solution: before?.solution, still: still ? shown : undefined };
      // A line in the hand is drawn at once; a turn has nothing to show before its solution is there.
      if (still) tryOut(next);
      else trying.current = next;
      wanted.current = recipe;
      void solveWanted();
    },
    [solveWanted, tryOut],
  );

  const drop = useCallback(() => {
    wanted.current = undefined;
    tryOut(undefined);
  }, [tryOut]);

  /* Run one write after those before it; what it returns holds from then on. */
  const write = useCallback(
    (send: (basedOn: number) => Promise<PictureState>, recipe?: Recipe) => {
      const turn = async () => {
        try {
          show(await send((stored.current as PictureState).entry_id));
        } catch (error) {
          const refused = asRefused(error);
          setProblem(refused);
          if (refused.status === 409) await load().then(show, () => undefined);
          drop();
        }
        if (!recipe || trying.current?.recipe === recipe) drop();
      };
      writes.current = writes.current.then(turn);
      return writes.current;
    },
    [drop, load, show],
  );

  const enter = useCallback(
    (recipe: Recipe, what: string) =>
      write(
        (basedOn) =>
          taken(
            client.POST("/api/pictures/{picture_id}/ledger", {
              params: { path: { picture_id: pictureId } },
              body: { based_on: basedOn, recipe, what },
            }),
          ),
        recipe,
      ),
    [pictureId, write],
  );

  const flush = useCallback(() => {
    const waiting = pending.current;
    if (!waiting) return writes.current;
    pending.current = undefined;
    window.clearTimeout(waiting.timer);
    return enter(waiting.recipe, waiting.what);
  }, [enter]);

  const commit = useCallback(
    (recipe: Recipe, what: string) => {
      window.clearTimeout(pending.current?.timer);
      pending.current = undefined; // the recipe contains what was pending
      trying.current = { ...trying.current, recipe };
      return enter(recipe, what);
    },
    [enter],
  );

  const commitSoon = useCallback(
    (recipe: Recipe, what: string, options?: { still?: boolean }) => {
      preview(recipe, options);
      window.clearTimeout(pending.current?.timer);
      pending.current = { recipe, what, timer: window.setTimeout(() => void flush(), REST_MS) };
    },
    [flush, preview],
  );

  useEffect(() => {
    const leave = () => void flush();
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [flush]);

  const acts = useMemo((): Acts => {
    const path = { picture_id: pictureId };
    const enterWhatComes = async (recipe: Promise<Recipe>, what: string) => {
      try {
        await commit(await recipe, what);
      } catch (error) {
        setProblem(asRefused(error));
      }
    };
    const step = async (way: "undo" | "redo") => {
      await flush();
      await write((based_on) => taken(client.POST(`/api/pictures/{picture_id}/${way}`, { params: { path }, body: { based_on } })));
    };
    return {
      latest,
      preview,
      commit,
      commitSoon,
      drop,
      undo: () => step("undo"),
      redo: () => step("redo"),
      typeAngle: async (axis, text) => {
        const answer = await taken(client.POST("/api/pictures/{picture_id}/angle", { params: { path }, body: { recipe: latest(), axis, text } }));
        await commit(answer.recipe, axis === "roll" ? "tilt typed" : `${axis} typed`);
        return answer.said;
      },
      follow: (action) => enterWhatComes(taken(client.POST("/api/pictures/{picture_id}/act", { params: { path }, body: { recipe: latest(), action } })), action.label.toLowerCase()),
      takeLens: (name) => enterWhatComes(taken(client.POST("/api/pictures/{picture_id}/lens", { params: { path }, body: { recipe: latest(), name } })), "bow of a lens"),
      fitted: (readings) =>
        taken(client.POST("/api/pictures/{picture_id}/fit", { params: { path }, body: { recipe: latest(), readings } })).catch((error: unknown) => ({ readings, said: asRefused(error).message })),
      rectangle: (corners, group, sigmaPx, fit) =>
        taken(client.POST("/api/pictures/{picture_id}/rectangle", { params: { path }, body: { recipe: latest(), corners, group, sigma_px: sigmaPx, fit } })).catch((error: unknown) => ({ readings: [], said: asRefused(error).message })),
      heldAgainst: (direction, ends) => taken(client.POST("/api/pictures/{picture_id}/guide", { params: { path }, body: { recipe: latest(), direction, ends } })),
    };
  }, [pictureId, latest, preview, commit, commitSoon, drop, flush, write]);

  const solution = draft?.solution ?? state?.solution;
  const bench: Bench | undefined = state && solution && { state, recipe: draft?.recipe ?? state.recipe, solution, shown: draft?.still ?? solution, atRest: draft === undefined, acts };
  return { bench, problem, dismiss: () => setProblem(undefined) };
}

function asRefused(error: unknown): Refused {
  return error instanceof Refused ? error : new Refused(String(error), 0);
}
