/* The bench without a browser: what is shown after all that can happen, in whatever order. */
import { describe, expect, test } from "vitest";
import type { Draft, Edit, PictureState, Solution } from "../../api/client";
import { atRest, benchOf, happened, openEdits, reducer, type BenchState } from "./bench";

const JOINS = {
  turn_by: { same: ["axis"], adds: "deg" },
  set_ease: { same: ["part"], adds: null },
};
const turn = (deg: number): Edit => ({ do: "turn_by", axis: "roll", deg });
const stored = (entry_id: number, id = 7) =>
  ({ id, entry_id, solution: { of: `entry ${entry_id}` } }) as unknown as PictureState;
const draft = (of: string) => ({ solution: { of } }) as unknown as Draft;
const named = (solution: Solution | null | undefined) =>
  (solution as unknown as { of: string } | null | undefined)?.of;

type Action = Parameters<typeof reducer>[1];
const after = (...actions: Action[]): BenchState =>
  actions.reduce(reducer, reducer(benchOf(7), happened.loaded(stored(1))));
const inHand = (edit: Edit, still = false) => happened.held({ edit, still });
const rested = (edit: Edit, still = false) => happened.rested({ edit, still, joins: JOINS });
const drafted = (generation: number, number: number, of = "draft") =>
  happened.drafted({ generation, turn: number, draft: draft(of) });
const shown = (state: BenchState) =>
  named(state.still ?? state.drafted?.draft.solution ?? state.stored?.solution);

describe("what is shown", () => {
  test("is what is stored, until an answer to what is in the hand comes", () => {
    expect(shown(after())).toBe("entry 1");
    const held = after(inHand(turn(1)));
    expect(shown(held)).toBe("entry 1");
    expect(shown(reducer(held, drafted(held.generation, 1)))).toBe("draft");
  });

  test("follows the hand: an answer to the edit before is shown until the next one comes", () => {
    const held = after(inHand(turn(1)), inHand(turn(2)));
    const first = reducer(held, drafted(held.generation, 1, "first"));
    expect(shown(first)).toBe("first");
    const second = reducer(first, drafted(held.generation, 2, "second"));
    expect(shown(second)).toBe("second");
    expect(shown(reducer(second, drafted(held.generation, 1, "first")))).toBe("second");
  });

  test("stays as it was where the hand let go, whatever comes later", () => {
    const held = after(inHand(turn(1)));
    const gone = reducer(held, happened.dropped());
    expect(shown(reducer(gone, drafted(held.generation, 1)))).toBe("entry 1");
  });

  test("is not an answer to edits that were stored meanwhile, when others are in the hand", () => {
    const held = after(inHand(turn(1)));
    const kept = [
      happened.sent({ id: 1, edits: [turn(1)], ofHand: true }),
      happened.kept({ id: 1, stored: stored(2) }),
      inHand(turn(5)),
    ].reduce<BenchState>(reducer, held);
    expect(shown(reducer(kept, drafted(held.generation, 1)))).toBe("entry 2");
    expect(shown(reducer(kept, drafted(kept.generation, 2, "new")))).toBe("new");
  });

  test("stands still under a reading that moves, and goes on afterwards", () => {
    const held = after(inHand(turn(1), true));
    const moved = reducer(held, drafted(held.generation, 1));
    expect(shown(moved)).toBe("entry 1");
    const kept = [
      happened.sent({ id: 1, edits: [turn(1)], ofHand: true }),
      happened.kept({ id: 1, stored: stored(2) }),
    ].reduce<BenchState>(reducer, moved);
    expect(shown(kept)).toBe("entry 2");
  });

  test("is never another picture", () => {
    const other = stored(90, 8);
    const open = after(happened.sent({ id: 1, edits: [turn(1)], ofHand: false }));
    for (const action of [
      happened.loaded(other),
      happened.kept({ id: 1, stored: other }),
      happened.refused({ id: 1, problem: null, stored: other }),
    ])
      expect(named(reducer(open, action).stored?.solution)).toBe("entry 1");
  });

  test("is looked at without being kept, and gone when nothing is looked at", () => {
    const looked = after(happened.previewed(turn(3)));
    const seen = reducer(looked, drafted(looked.generation, 1, "preview"));
    expect(shown(seen)).toBe("preview");
    expect(shown(reducer(seen, happened.previewed(null)))).toBe("entry 1");
  });

  test("is looked at until it is done, and seen until that is kept", () => {
    const looked = after(happened.previewed(turn(3)));
    const seen = reducer(looked, drafted(looked.generation, 1, "preview"));
    const sent = reducer(seen, happened.sent({ id: 1, edits: [turn(3)], ofHand: false }));
    expect(openEdits(sent)).toEqual([turn(3)]);
    expect(shown(sent)).toBe("preview");
    expect(shown(reducer(sent, happened.kept({ id: 1, stored: stored(2) })))).toBe("entry 2");
    const undone = reducer(seen, happened.sent({ id: 1, edits: [], ofHand: false }));
    expect(shown(undone)).toBe("entry 1");
  });

  test("is not given up by letting go of nothing that is looked at", () => {
    const held = after(inHand(turn(1)));
    expect(reducer(held, happened.previewed(null))).toBe(held);
  });
});

describe("the bench is at rest", () => {
  test("until the hand tries something, before any answer, and until that is stored", () => {
    expect(atRest(after())).toBe(true);
    const held = after(rested(turn(1)));
    expect(atRest(held)).toBe(false);
    const sent = reducer(held, happened.sent({ id: 1, edits: [turn(1)], ofHand: true }));
    expect(atRest(sent)).toBe(false);
    expect(atRest(reducer(sent, happened.kept({ id: 1, stored: stored(2) })))).toBe(true);
  });

  test("while something is kept at once, of which nothing is shown yet", () => {
    expect(atRest(after(happened.sent({ id: 1, edits: [turn(1)], ofHand: false })))).toBe(true);
  });
});

describe("edits", () => {
  test("that say again what the last one said join it, as the server says", () => {
    const state = after(rested(turn(0.1)), rested(turn(0.2)));
    expect(state.hand.edits).toEqual([turn(0.30000000000000004)]);
    const ease = (part: "roll" | "lean", share: number): Edit => ({
      do: "set_ease",
      part,
      share,
    });
    const eased = after(rested(ease("roll", 0.2)), rested(ease("roll", 0.7)));
    expect(eased.hand.edits).toEqual([ease("roll", 0.7)]);
    const both = after(rested(ease("roll", 0.2)), rested(ease("lean", 0.7)));
    expect(both.hand.edits).toHaveLength(2);
    const lean: Edit = { do: "turn_by", axis: "lean", deg: 1 };
    expect(after(rested(turn(1)), rested(lean)).hand.edits).toHaveLength(2);
  });

  test("go in order: on their way, in the hand, only looked at", () => {
    const state = after(
      happened.sent({ id: 1, edits: [turn(1)], ofHand: false }),
      inHand(turn(2)),
      happened.previewed(turn(3)),
    );
    expect(openEdits(state)).toEqual([turn(1), turn(2), turn(3)]);
  });

  test("that rest in the hand are not let go of with what is tried", () => {
    expect(after(rested(turn(1)), happened.dropped()).hand.edits).toEqual([turn(1)]);
  });

  test("in the hand go when one on its way is refused: they were made on top of it", () => {
    const state = after(
      happened.sent({ id: 1, edits: [turn(1)], ofHand: false }),
      rested(turn(2)),
      happened.refused({ id: 1, problem: { message: "no", status: 422 }, stored: null }),
    );
    expect(openEdits(state)).toEqual([]);
    expect(state.problem?.message).toBe("no");
    expect(reducer(state, happened.dismissed()).problem).toBeNull();
  });

  test("that another window overtook give way to how the picture stands now", () => {
    const state = after(
      happened.sent({ id: 1, edits: [turn(1)], ofHand: false }),
      happened.refused({ id: 1, problem: { message: "no", status: 409 }, stored: stored(9) }),
    );
    expect(shown(state)).toBe("entry 9");
    expect(state.unanswered).toBe(0);
  });
});
