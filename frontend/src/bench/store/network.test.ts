/* The way to the server, with a server that answers when the test says so. */
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { type Draft, type Edit, type GuideOut, type PictureState } from "../../api/client";
import { Refused } from "../../api/refused";
import { openEdits } from "./bench";
import { MANY, openBench, REST_MS, type Server } from "./network";

const JOINS = { turn_by: { same: ["axis"], adds: "deg" } };
const turn = (deg: number): Edit => ({ do: "turn_by", axis: "roll", deg });
const name = (value: string): Edit => ({ do: "name_reading", id: "a", name: value });
const stored = (entry_id: number, said = "") =>
  ({ id: 7, entry_id, said, solution: {} }) as unknown as PictureState;

interface Asked {
  what: string;
  basedOn: number;
  edits: Edit[];
  answer: (value: unknown) => void;
  refuse: (status: number) => void;
}

/** A server that writes down what it is asked, and answers when it is told to. */
function slow() {
  const asked: Asked[] = [];
  const ask = <T>(what: string, basedOn = 0, edits: Edit[] = []) =>
    new Promise<T>((resolve, reject) =>
      asked.push({
        what,
        basedOn,
        edits,
        answer: (value) => resolve(value as T),
        refuse: (status) => reject(new Refused("refused", status)),
      }),
    );
  const server: Server = {
    load: () => ask<PictureState>("load"),
    draft: (basedOn, edits) => ask<Draft>("draft", basedOn, edits),
    record: (basedOn, edits, leaving) =>
      ask<PictureState>(leaving ? "record, leaving" : "record", basedOn, edits),
    move: (way, basedOn) => ask<PictureState>(way, basedOn),
    guide: (basedOn, edits) => ask<GuideOut>("guide", basedOn, edits),
  };
  const last = (what: string) => asked.filter((one) => one.what === what).at(-1) as Asked;
  return { server, asked, last };
}

const rest = () => vi.advanceTimersByTimeAsync(0);

async function opened() {
  const { server, asked, last } = slow();
  const bench = openBench(7, server, JOINS);
  void bench.load();
  last("load").answer(stored(1));
  await rest();
  const count = (what: string) => asked.filter((one) => one.what === what).length;
  return { ...bench, asked, last, count, state: bench.store.getState };
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test("one draft at a time, the newest next", async () => {
  const { acts, last, count } = await opened();
  [1, 2, 3].forEach((deg) => acts.draft(turn(deg)));
  expect(count("draft")).toBe(1);
  last("draft").answer({ solution: {} });
  await rest();
  expect(count("draft")).toBe(2);
  expect(last("draft").edits).toEqual([turn(3)]);
});

test("writes go one after the other, each based on what the one before made", async () => {
  const { acts, last, count } = await opened();
  void acts.record(name("first"));
  void acts.record(name("second"));
  await rest();
  expect(count("record")).toBe(1);
  expect(last("record").basedOn).toBe(1);
  last("record").answer(stored(2));
  await rest();
  expect(count("record")).toBe(2);
  expect([last("record").basedOn, last("record").edits]).toEqual([2, [name("second")]]);
});

test("what is to be kept soon is kept together as soon as the hand rests", async () => {
  const { acts, last, count } = await opened();
  acts.recordSoon(turn(1));
  await vi.advanceTimersByTimeAsync(REST_MS - 1);
  acts.recordSoon(turn(2));
  await vi.advanceTimersByTimeAsync(REST_MS - 1);
  expect(count("record")).toBe(0);
  await vi.advanceTimersByTimeAsync(1);
  expect(last("record").edits).toEqual([turn(3)]);
});

test("very many are kept even when the hand does not rest", async () => {
  const { acts, count } = await opened();
  for (let place = 0; place <= MANY; place += 1) acts.recordSoon(name(String(place)));
  await rest();
  expect(count("record")).toBe(1);
});

test("a draft in the hand is based on what is on its way, and survives its being kept", async () => {
  const { acts, last, state } = await opened();
  void acts.record(name("first"));
  acts.draft(turn(1));
  await rest();
  expect(last("draft").edits).toEqual([name("first"), turn(1)]);
  last("record").answer(stored(2));
  await rest();
  last("draft").answer({ solution: { of: "draft" } });
  await rest();
  expect(state().drafted?.draft).toEqual({ solution: { of: "draft" } });
  expect(openEdits(state())).toEqual([turn(1)]);
});

test("an outcome says what was said, or why it was refused; quietly, nobody else hears", async () => {
  const { acts, last, state } = await opened();
  const kept = acts.record(name("a"));
  await rest();
  last("record").answer(stored(2, "no edge"));
  expect(await kept).toEqual({ said: "no edge" });
  const refused = acts.record(name("b"), { quietly: true });
  await rest();
  last("record").refuse(422);
  expect(await refused).toEqual({ refused: "refused" });
  expect(state().problem).toBeNull();
});

test("what another window overtook is shown as it is now", async () => {
  const { acts, last, state } = await opened();
  void acts.record(name("a"));
  await rest();
  last("record").refuse(409);
  await rest();
  last("load").answer(stored(12));
  await rest();
  expect(state().stored?.entry_id).toBe(12);
  expect(state().problem?.status).toBe(409);
  void acts.record(name("b"));
  await rest();
  expect(last("record").basedOn).toBe(12);
});

test("undo goes after what is in the hand was kept", async () => {
  const { acts, last, asked } = await opened();
  acts.recordSoon(turn(1));
  void acts.undo();
  await rest();
  expect(asked.map((one) => one.what)).toEqual(["load", "draft", "record"]);
  last("record").answer(stored(2));
  await rest();
  expect(last("undo").basedOn).toBe(2);
});

test("what rests in the hand goes when the page is left", async () => {
  const { acts, last } = await opened();
  acts.recordSoon(turn(1));
  void acts.settle(true);
  await rest();
  expect(last("record, leaving").edits).toEqual([turn(1)]);
});

test("a picture that is not there is a problem", async () => {
  const { server, last } = slow();
  const { store, load } = openBench(7, server, JOINS);
  void load();
  last("load").refuse(404);
  await rest();
  expect(store.getState().problem?.status).toBe(404);
});

test("a guide is held against what is shown, with what is not stored yet", async () => {
  const { acts, last } = await opened();
  acts.draft(turn(1));
  void acts.heldAgainst("level", [
    [0, 0],
    [9, 0],
  ]);
  expect([last("guide").basedOn, last("guide").edits]).toEqual([1, [turn(1)]]);
});

test("what an answer leaves as it was stays the same object", async () => {
  const { acts, last, state } = await opened();
  const answer = (deg: number) => ({
    recipe: { readings: [{ id: "a", points: [[1, 2]] }], trim: deg },
    solution: { roll: deg },
  });
  acts.draft(turn(1));
  last("draft").answer(answer(1));
  await rest();
  const before = state().drafted?.draft;
  acts.draft(turn(2));
  last("draft").answer(answer(2));
  await rest();
  const after = state().drafted?.draft;
  expect(after).toEqual(answer(2));
  expect(after?.solution).not.toBe(before?.solution);
  expect(after?.recipe.readings).toBe(before?.recipe.readings);
});
