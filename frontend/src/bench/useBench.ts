/* One picture on the bench, for as long as it is there (another one has another bench): what is
   stored, the edits that are being tried on it, and the way from one to the other.

   The server makes the recipe of every edit and solves it, one request at a time, the newest edits
   next, so that the picture follows the hand. Writes go one after the other, each based on the
   entry that the one before made. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import {
  asRefused,
  client,
  Refused,
  taken,
  type Direction,
  type Draft,
  type Edit,
  type GuideEnds,
  type GuideOut,
  type PictureState,
  type Recipe,
  type Report,
  type Solution,
  whole,
} from "../api/client";

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
  attempt: (edit: Edit, options?: Still) => void;
  /** Keep what is in the hand. */
  settle: () => Promise<Outcome>;
  /** Keep an edit at once. `quietly` leaves it to the caller to say why it was refused. */
  keep: (edit: Edit, options?: { quietly?: boolean }) => Promise<Outcome>;
  /** Try an edit, and keep it with those like it as soon as the hand rests. */
  keepSoon: (edit: Edit, options?: Still) => void;
  /** Let go of what is in the hand. */
  drop: () => void;
  /** Show what an edit would lead to, without keeping it; nothing is shown so without one. */
  preview: (edit?: Edit) => void;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  /**
   * The angle between a guide, given in the plane of the corrected picture, and the edge under it.
   */
  heldAgainst: (direction: Direction, ends: GuideEnds) => Promise<GuideOut>;
}

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
  /** True while the server has not answered to what is to be kept. */
  saving: boolean;
  acts: Acts;
}

/** What is shown in place of what is stored. */
interface Tried {
  draft?: Draft;
  still?: Solution;
}

const REST_MS = 500;
/** So many edits are kept even when the hand does not rest. */
const MANY = 60;

export function useBench(pictureId: number) {
  const [state, setState] = useState<PictureState>();
  const [tried, setTried] = useState<Tried>();
  const [problem, setProblem] = useState<Refused>();
  const [unanswered, setUnanswered] = useState(0);
  const stored = useRef<PictureState>(undefined);
  const trying = useRef<{ edits: Edit[]; soon: boolean }>({ edits: [], soon: false });
  const sending = useRef<Edit[][]>([]);
  const writes = useRef<Promise<unknown>>(Promise.resolve());
  const solving = useRef(false);
  const changed = useRef(false);
  const rest = useRef<number>(undefined);
  const previewed = useRef<Edit>(undefined);

  const show = useCallback((next: PictureState) => {
    stored.current = next;
    setState(next);
  }, []);
  const path = useMemo(() => ({ picture_id: pictureId }), [pictureId]);
  const load = useCallback(
    () => taken(client.GET("/api/pictures/{picture_id}", { params: { path } })),
    [path],
  );

  useEffect(() => {
    load().then(show, (error: unknown) => setProblem(asRefused(error)));
  }, [load, show]);

  /* Edits that are not in what is stored yet. */
  const open = useCallback(() => [...sending.current.flat(), ...trying.current.edits], []);
  /* The same with what is only looked at. */
  const looked = useCallback(
    () => (previewed.current ? [...open(), previewed.current] : open()),
    [open],
  );
  const basis = useCallback(
    () => ({ based_on: (stored.current as PictureState).entry_id, edits: whole(looked()) }),
    [looked],
  );

  const follow = useCallback(async () => {
    changed.current = true;
    if (solving.current) return;
    solving.current = true;
    while (changed.current) {
      changed.current = false;
      if (!looked().length) continue;
      try {
        const draft = await taken(
          client.POST("/api/pictures/{picture_id}/draft", { params: { path }, body: basis() }),
        );
        if (looked().length) setTried((now) => ({ ...now, draft }));
      } catch {
        // What cannot be solved leaves the last good picture; keeping it says why.
      }
    }
    solving.current = false;
  }, [basis, looked, path]);

  const stand = useCallback(
    (still: boolean) =>
      setTried((now) =>
        still
          ? { ...now, still: now?.still ?? now?.draft?.solution ?? stored.current?.solution }
          : { draft: now?.draft },
      ),
    [],
  );

  const clear = useCallback(() => {
    window.clearTimeout(rest.current);
    trying.current = { edits: [], soon: false };
    if (previewed.current) void follow();
    else if (!sending.current.length) setTried(undefined);
  }, [follow]);

  /* Run one write after those before it; what it returns holds from then on. */
  const write = useCallback(
    (edits: Edit[], send: () => Promise<PictureState>, quietly = false): Promise<Outcome> => {
      if (edits.length) sending.current.push(edits);
      setUnanswered((now) => now + 1);
      const turn = async (): Promise<Outcome> => {
        const outcome: Outcome = {};
        try {
          const next = await send();
          outcome.said = next.said || undefined;
          sending.current = sending.current.filter((other) => other !== edits);
          show(next);
        } catch (error) {
          const refused = asRefused(error);
          outcome.refused = refused.message;
          if (!quietly) setProblem(refused);
          if (refused.status === 409) await load().then(show, () => undefined);
          sending.current = sending.current.filter((other) => other !== edits);
          clear();
        }
        if (previewed.current) void follow();
        else if (!open().length) setTried(undefined);
        setUnanswered((now) => now - 1);
        return outcome;
      };
      const done = writes.current.then(turn);
      writes.current = done;
      return done;
    },
    [clear, follow, load, open, show],
  );

  const enter = useCallback(
    (edits: Edit[], { quietly, leaving }: { quietly?: boolean; leaving?: boolean } = {}) =>
      write(
        edits,
        () =>
          taken(
            client.POST("/api/pictures/{picture_id}/ledger", {
              params: { path },
              body: { based_on: (stored.current as PictureState).entry_id, edits: whole(edits) },
              // What is sent while the page closes goes on without it.
              keepalive: leaving,
            }),
          ),
        quietly,
      ),
    [path, write],
  );

  const settle = useCallback(
    async (leaving = false): Promise<Outcome> => {
      window.clearTimeout(rest.current);
      const { edits } = trying.current;
      trying.current = { edits: [], soon: false };
      return edits.length ? enter(edits, { leaving }) : {};
    },
    [enter],
  );

  const acts = useMemo((): Acts => {
    const move = async (way: "undo" | "redo") => {
      await settle();
      await write([], () =>
        taken(
          client.POST(`/api/pictures/{picture_id}/${way}`, {
            params: { path },
            body: { based_on: (stored.current as PictureState).entry_id },
          }),
        ),
      );
    };
    return {
      attempt: (edit, { still = false } = {}) => {
        if (trying.current.soon) void settle();
        trying.current = { edits: [edit], soon: false };
        stand(still);
        void follow();
      },
      settle: () => settle(),
      keep: async (edit, { quietly } = {}) => {
        void settle();
        return enter([edit], { quietly });
      },
      keepSoon: (edit, { still = false } = {}) => {
        if (trying.current.edits.length >= MANY) void settle();
        trying.current = { edits: together(trying.current.edits, edit), soon: true };
        stand(still);
        window.clearTimeout(rest.current);
        rest.current = window.setTimeout(() => void settle(), REST_MS);
        void follow();
      },
      drop: () => {
        if (!trying.current.soon) clear();
      },
      preview: (edit) => {
        if (!edit && !previewed.current) return;
        previewed.current = edit;
        if (looked().length) void follow();
        else setTried(undefined);
      },
      undo: () => move("undo"),
      redo: () => move("redo"),
      heldAgainst: (direction, ends) =>
        taken(
          client.POST("/api/pictures/{picture_id}/guide", {
            params: { path },
            body: { ...basis(), direction, ends },
          }),
        ),
    };
  }, [basis, clear, enter, follow, looked, path, settle, stand, write]);

  useEffect(() => {
    const leave = () => void settle(true);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [settle]);

  const held = tried?.draft ?? state;
  const bench: Bench | undefined = state &&
    held && {
      state,
      recipe: held.recipe,
      solution: held.solution,
      report: held.report,
      shown: tried?.still ?? held.solution,
      atRest: tried === undefined,
      saving: unanswered > 0,
      acts,
    };
  return { bench, problem, dismiss: () => setProblem(undefined) };
}

/**
 * Edits with one more: one that says again what the last one said takes its place, small steps are
 * added up.
 */
function together(edits: Edit[], edit: Edit): Edit[] {
  const last = edits.at(-1);
  if (last?.do === "turn_by" && edit.do === "turn_by" && last.axis === edit.axis)
    return [...edits.slice(0, -1), { ...edit, deg: last.deg + edit.deg }];
  if (
    last?.do === "nudge_point" &&
    edit.do === "nudge_point" &&
    last.id === edit.id &&
    last.point === edit.point
  )
    return [
      ...edits.slice(0, -1),
      { ...edit, by: [last.by[0] + edit.by[0], last.by[1] + edit.by[1]] },
    ];
  return last && saysAgain(last, edit)
    ? [...edits.slice(0, -1), { ...last, ...edit } as Edit]
    : [...edits, edit];
}

function saysAgain(last: Edit, edit: Edit): boolean {
  if (edit.do === "set_ease") return last.do === edit.do && last.part === edit.part;
  if (edit.do === "let_reading_become") return last.do === edit.do && last.id === edit.id;
  if (edit.do === "move_keep_corner") return last.do === edit.do && last.corner === edit.corner;
  return (
    last.do === edit.do &&
    [
      "set_radial",
      "set_proportion",
      "allow_fill",
      "choose_colour",
      "move_aim",
      "bend_lines",
      "share_corners",
    ].includes(edit.do)
  );
}
