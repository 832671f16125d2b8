/* Which notes were answered in a set: what was said once of pictures like these is not said again.
   Kept by the browser. */
import { useState } from "react";
import type { NoteWords } from "../../api/client";

const keyOf = (set: number) => `sequor-answered-${set}`;

function read(set: number): string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keyOf(set)) ?? "[]");
    return Array.isArray(kept) ? kept.filter((code) => typeof code === "string") : [];
  } catch {
    return [];
  }
}

export function useAnswered(set: number) {
  const [codes, setCodes] = useState(() => read(set));
  return {
    isNew: ({ code, once }: NoteWords) => !once || !codes.includes(code),
    answer: ({ code, once }: NoteWords) => {
      if (!once || codes.includes(code)) return;
      const next = [...codes, code];
      setCodes(next);
      try {
        localStorage.setItem(keyOf(set), JSON.stringify(next));
      } catch {
        // A full store forgets: it is said once more.
      }
    },
  };
}
