/* Which pictures are chosen: one, a range with Shift, all, none. */
import { useCallback, useRef, useState } from "react";

export interface Selection {
  chosen: ReadonlySet<number>;
  /** `range` reaches from the one that was chosen last. */
  choose: (id: number, on: boolean, range: boolean) => void;
  set: (ids: number[]) => void;
}

/** `ids` are all that are shown, in their order. */
export function useSelection(ids: number[]): Selection {
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const last = useRef<number>(undefined);
  const choose = useCallback(
    (id: number, on: boolean, range: boolean) => {
      const [from, to] = [ids.indexOf(last.current ?? id), ids.indexOf(id)];
      const meant =
        range && from >= 0 && to >= 0
          ? ids.slice(Math.min(from, to), Math.max(from, to) + 1)
          : [id];
      last.current = id;
      setChosen((now) => {
        const next = new Set(now);
        for (const one of meant) {
          if (on) next.add(one);
          else next.delete(one);
        }
        return next;
      });
    },
    [ids],
  );
  const set = useCallback((wanted: number[]) => setChosen(new Set(wanted)), []);
  return { chosen, choose, set };
}
