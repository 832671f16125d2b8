/* The network beside the bench: what edits lead to is asked for, one request at a time, the newest
   next, so that the picture follows the hand; writes go one after the other, each based on the
   entry that the one before made. Answers come back as actions, and the reducer decides whether
   they may be shown. */
import { configureStore, Tuple, type Middleware } from "@reduxjs/toolkit";
import { replaceEqualDeep } from "@tanstack/react-query";
import type { Direction, Draft, Edit, GuideEnds, GuideOut, PictureState } from "../../api/client";
import { asRefused, type Refused } from "../../api/refused";
import { benchOf, happened, openEdits, reducer, type BenchState } from "./bench";
import type { JoinsOf } from "./joining";

/** What is asked of the server; each throws Refused. */
export interface Server {
  load: () => Promise<PictureState>;
  draft: (basedOn: number, edits: Edit[]) => Promise<Draft>;
  /** `leaving`: it goes on without the page, which is being closed. */
  record: (basedOn: number, edits: Edit[], leaving: boolean) => Promise<PictureState>;
  move: (way: "undo" | "redo", basedOn: number) => Promise<PictureState>;
  guide: (
    basedOn: number,
    edits: Edit[],
    direction: Direction,
    ends: GuideEnds,
  ) => Promise<GuideOut>;
}

/** What came of a write: a sentence where there is anything to say, or why it was refused. */
export interface Outcome {
  said?: string;
  refused?: string;
}

interface Still {
  /** While an end of a reading is in the hand the picture stands still. */
  still?: boolean;
}

/** What can be done; the same functions for as long as the picture is on the bench. */
export interface Acts {
  /** Try an edit while it is in the hand; it takes the place of the one before. */
  draft: (edit: Edit, options?: Still) => void;
  /** Keep what is in the hand. */
  settle: (leaving?: boolean) => Promise<Outcome>;
  /** Keep an edit at once. `quietly` leaves it to the caller to say why it was refused. */
  record: (edit: Edit, options?: { quietly?: boolean }) => Promise<Outcome>;
  /** Try an edit, and keep it with those like it as soon as the hand rests. */
  recordSoon: (edit: Edit, options?: Still) => void;
  /** Let go of what is in the hand. */
  drop: () => void;
  /** Show what an edit would lead to, without keeping it; nothing is shown so without one. */
  preview: (edit?: Edit) => void;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  /** What went wrong was read. */
  dismiss: () => void;
  /**
   * The angle between a guide, given in the plane of the corrected picture, and the edge under it.
   */
  heldAgainst: (direction: Direction, ends: GuideEnds) => Promise<GuideOut>;
}

export const REST_MS = 500;
/** So many edits are kept even when the hand does not rest. */
export const MANY = 60;
const STALE = 409;

export type OpenBench = ReturnType<typeof openBench>;

/** A bench for a picture, with the way to the server. */
export function openBench(pictureId: number, server: Server, joins: JoinsOf) {
  const store = configureStore({
    reducer,
    preloadedState: benchOf(pictureId),
    middleware: () => new Tuple(following(server)),
    devTools: false,
  });
  const { dispatch, getState } = store;
  let written = 0;
  let writes: Promise<unknown> = Promise.resolve();
  let rest: ReturnType<typeof setTimeout> | undefined;
  const problemOf = ({ message, status }: Refused) => ({ message, status });

  /* Run one write after those before it. */
  const write = (
    edits: Edit[],
    send: (basedOn: number) => Promise<PictureState>,
    { quietly = false, ofHand = false } = {},
  ): Promise<Outcome> => {
    const id = (written += 1);
    dispatch(happened.sent({ id, edits, ofHand }));
    const turn = async (): Promise<Outcome> => {
      try {
        const stored = await send(getState().stored?.entry_id ?? 0);
        dispatch(happened.kept({ id, stored: shared(getState(), stored) }));
        return { said: stored.said || undefined };
      } catch (error) {
        const refused = asRefused(error);
        const stale = refused.status === STALE;
        const stored = stale ? await server.load().catch(() => null) : null;
        const problem = quietly ? null : problemOf(refused);
        dispatch(happened.refused({ id, problem, stored }));
        return { refused: refused.message };
      }
    };
    const done = writes.then(turn);
    writes = done;
    return done;
  };

  const settle = (leaving = false): Promise<Outcome> => {
    clearTimeout(rest);
    const { edits } = getState().hand;
    if (!edits.length) return Promise.resolve({});
    const send = (basedOn: number) => server.record(basedOn, edits, leaving);
    return write(edits, send, { ofHand: true });
  };
  const move = async (way: "undo" | "redo") => {
    void settle();
    await write([], (basedOn) => server.move(way, basedOn));
  };

  const acts: Acts = {
    draft: (edit, { still = false } = {}) => {
      if (getState().hand.resting) void settle();
      dispatch(happened.held({ edit, still }));
    },
    settle,
    record: (edit, { quietly } = {}) => {
      void settle();
      return write([edit], (basedOn) => server.record(basedOn, [edit], false), { quietly });
    },
    recordSoon: (edit, { still = false } = {}) => {
      if (getState().hand.edits.length >= MANY) void settle();
      dispatch(happened.rested({ edit, still, joins }));
      clearTimeout(rest);
      rest = setTimeout(() => void settle(), REST_MS);
    },
    drop: () => void dispatch(happened.dropped()),
    preview: (edit) => void dispatch(happened.previewed(edit ?? null)),
    undo: () => move("undo"),
    redo: () => move("redo"),
    dismiss: () => void dispatch(happened.dismissed()),
    heldAgainst: (direction, ends) => {
      const state = getState();
      return server.guide(state.stored?.entry_id ?? 0, openEdits(state), direction, ends);
    },
  };
  const load = () =>
    server.load().then(
      (stored) => void dispatch(happened.loaded(shared(getState(), stored))),
      (error: unknown) => void dispatch(happened.failed(problemOf(asRefused(error)))),
    );
  return { store, acts, load };
}

/* An answer in which everything that is as it was stays the same object, so that only what changed
   is drawn anew. Frozen, it is taken as it is: it is large, and nobody changes it. */
function shared<Answer extends Draft>({ stored, drafted }: BenchState, answer: Answer): Answer {
  return Object.freeze(replaceEqualDeep({ ...stored, ...drafted?.draft }, answer));
}

/* Asks what open edits lead to whenever they are others. */
function following(server: Server): Middleware<unknown, BenchState> {
  return ({ dispatch, getState }) => {
    let [solving, changed, turn] = [false, false, 0];
    const follow = async () => {
      changed = true;
      if (solving) return;
      solving = true;
      while (changed) {
        changed = false;
        const { stored, generation } = getState();
        const edits = openEdits(getState());
        if (!edits.length || !stored) continue;
        turn += 1;
        const asked = turn;
        try {
          const draft = shared(getState(), await server.draft(stored.entry_id, edits));
          dispatch(happened.drafted({ generation, turn: asked, draft }));
        } catch {
          // What cannot be solved leaves the last good picture; keeping it says why.
        }
      }
      solving = false;
    };
    return (next) => (action) => {
      const before = getState();
      const result = next(action);
      const after = getState();
      const handed = before.hand !== after.hand && after.hand.edits.length > 0;
      const others = before.generation !== after.generation && openEdits(after).length > 0;
      const looking = before.previewed !== after.previewed || before.stored !== after.stored;
      if (handed || others || (looking && after.previewed)) void follow();
      return result;
    };
  };
}
