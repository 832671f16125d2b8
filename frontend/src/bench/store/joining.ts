/* Edits of one kind that follow each other, as one: how they join is the server's to say. */
import type { Edit, Joins } from "../../api/client";

export type JoinsOf = Readonly<Record<string, Joins>>;

/** Edits with one more, joined with the last where their kind says so. */
export function joined(edits: readonly Edit[], edit: Edit, joins: JoinsOf): Edit[] {
  const last = edits.at(-1);
  const how = joins[edit.do];
  if (!last || !how || last.do !== edit.do) return [...edits, edit];
  const [before, now] = [last as Fields, edit as Fields];
  if (!how.same.every((field) => before[field] === now[field])) return [...edits, edit];
  const together = { ...before, ...now };
  if (how.adds) together[how.adds] = sum(before[how.adds], now[how.adds]);
  return [...edits.slice(0, -1), together as Edit];
}

type Fields = Record<string, unknown>;

function sum(a: unknown, b: unknown): unknown {
  if (Array.isArray(a) && Array.isArray(b)) return a.map((value, place) => value + b[place]);
  return (a as number) + (b as number);
}
