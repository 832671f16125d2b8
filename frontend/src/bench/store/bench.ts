/* What the bench knows of one picture, as one value, and everything that can happen to it.

   Pure: the network stands beside it (`network.ts`). What is shown is worked out from it: what is
   stored, or the answer to edits that are not stored yet. */
import { createSlice, type PayloadAction } from "@reduxjs/toolkit";
import type { Draft, Edit, PictureState, Solution } from "../../api/client";
import { joined, type JoinsOf } from "./joining";

/** Edits on their way to the server, by the number of their write; those that were `ofHand` are
    shown already. */
export interface Sent {
  id: number;
  edits: Edit[];
  ofHand: boolean;
}

/** Edits in the hand; those that are `resting` are kept as soon as it rests. */
export interface InHand {
  edits: Edit[];
  resting: boolean;
}

/** What edits lead to, and of what: the generation of the edits, and which asking it answers. */
export interface Drafted {
  generation: number;
  turn: number;
  draft: Draft;
}

export interface Problem {
  message: string;
  status: number;
}

export interface BenchState {
  pictureId: number;
  stored: PictureState | null;
  sent: Sent[];
  hand: InHand;
  /** An edit that is only looked at. */
  previewed: Edit | null;
  /** Grows when edits that were shown are given up: answers to them come too late. */
  generation: number;
  drafted: Drafted | null;
  /** While an end of a reading is in the hand the picture stands still, as it was then. */
  still: Solution | null;
  /** How many writes are unanswered, with those that carry no edits. */
  unanswered: number;
  problem: Problem | null;
}

const EMPTY: InHand = { edits: [], resting: false };

export const benchOf = (pictureId: number): BenchState => ({
  pictureId,
  stored: null,
  sent: [],
  hand: EMPTY,
  previewed: null,
  generation: 0,
  drafted: null,
  still: null,
  unanswered: 0,
  problem: null,
});

/** Edits that are not in what is stored yet, with what is only looked at. */
export const openEdits = ({ sent, hand, previewed }: BenchState): Edit[] => [
  ...sent.flatMap(({ edits }) => edits),
  ...hand.edits,
  ...(previewed ? [previewed] : []),
];

/** Whether what is shown is what is stored: the hand tries nothing, and nothing is looked at. */
export const atRest = ({ sent, hand, drafted, still }: BenchState): boolean =>
  !drafted && !still && !hand.edits.length && !sent.some(({ ofHand }) => ofHand);

/* Once nothing is open, what is stored is shown, whatever answers still come. */
function settleDown(state: BenchState) {
  if (openEdits(state).length) return;
  state.generation += 1;
  state.drafted = null;
  state.still = null;
}

/* What was in the hand is given up: answers to it come too late. */
function giveUp(state: BenchState) {
  state.generation += 1;
  state.hand = EMPTY;
  state.still = null;
  settleDown(state);
}

function standStill(state: BenchState, still: boolean) {
  if (!still) state.still = null;
  else state.still ??= state.drafted?.draft.solution ?? state.stored?.solution ?? null;
}

const slice = createSlice({
  name: "bench",
  initialState: benchOf(0),
  reducers: {
    /** The picture has come. */
    loaded(state, { payload }: PayloadAction<PictureState>) {
      if (payload.id === state.pictureId) state.stored = payload;
    },
    /** Something was refused that no edit asked for, such as the picture itself. */
    failed(state, { payload }: PayloadAction<Problem>) {
      state.problem = payload;
    },
    /** An edit is tried while it is in the hand; it takes the place of the one before. */
    held(state, { payload }: PayloadAction<{ edit: Edit; still: boolean }>) {
      state.hand = { edits: [payload.edit], resting: false };
      standStill(state, payload.still);
    },
    /** An edit is to be kept, with those like it, as soon as the hand rests. */
    rested(state, { payload }: PayloadAction<{ edit: Edit; still: boolean; joins: JoinsOf }>) {
      const before = state.hand.resting ? state.hand.edits : [];
      state.hand = { edits: joined(before, payload.edit, payload.joins), resting: true };
      standStill(state, payload.still);
    },
    /** The hand let go of what it tried; what only rests in it stays. */
    dropped(state) {
      if (state.hand.resting) return;
      giveUp(state);
    },
    /** An edit is looked at, or nothing. */
    previewed(state, { payload }: PayloadAction<Edit | null>) {
      if (!payload && !state.previewed) return;
      state.previewed = payload;
      state.generation += 1;
      settleDown(state);
    },
    /** Edits go to the server; those of the hand leave it. */
    sent(state, { payload }: PayloadAction<Sent>) {
      if (payload.ofHand) state.hand = EMPTY;
      // What was looked at is done now, or something else is: it stays seen until that is kept.
      state.previewed = null;
      state.sent.push(payload);
      state.unanswered += 1;
      settleDown(state);
    },
    /** A write was kept: this is how the picture stands now. */
    kept(state, { payload }: PayloadAction<{ id: number; stored: PictureState }>) {
      if (payload.stored.id !== state.pictureId) return;
      state.sent = state.sent.filter(({ id }) => id !== payload.id);
      state.stored = payload.stored;
      state.unanswered -= 1;
      settleDown(state);
    },
    /** A write was refused; `stored` is how the picture stands where another window changed it. */
    refused(
      state,
      {
        payload,
      }: PayloadAction<{ id: number; problem: Problem | null; stored: PictureState | null }>,
    ) {
      state.sent = state.sent.filter(({ id }) => id !== payload.id);
      if (payload.stored?.id === state.pictureId) state.stored = payload.stored;
      if (payload.problem) state.problem = payload.problem;
      state.unanswered -= 1;
      giveUp(state);
    },
    /** The server says what edits lead to. */
    drafted(state, { payload }: PayloadAction<Drafted>) {
      const late = payload.turn <= (state.drafted?.turn ?? 0);
      if (payload.generation !== state.generation || late || !openEdits(state).length) return;
      state.drafted = payload;
    },
    /** What went wrong was read. */
    dismissed(state) {
      state.problem = null;
    },
  },
});

export const { reducer } = slice;
export const happened = slice.actions;
