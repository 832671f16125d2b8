/* Files on their way into a set, each with its own progress and outcome, in their order. They are
   kept in the browser until they are sent, so that a reload goes on with them. */
import { createStore, del, entries, setMany } from "idb-keyval";
import { useCallback, useEffect, useRef, useState } from "react";
import { t } from "../shared/words";
import { send } from "./sendPicture";

export interface Incoming {
  key: string;
  name: string;
  share: number;
  outcome: "waiting" | "sending" | "reading" | "added" | "known" | "refused" | "called off";
  problem?: string;
  /** It is damaged, and can be taken in as that. */
  asDamaged?: boolean;
  /** It has so many pages, of which some can be taken. */
  pages?: number;
}

export interface Uploads {
  incoming: Incoming[];
  add: (files: File[]) => Promise<void>;
  /** Send nothing that is not on its way yet. */
  callOff: () => void;
  clear: () => void;
  /** Take a damaged file in as it is. */
  takeAnyway: (key: string) => void;
  /** Take pages of a file, from 1, each as a picture of its own. */
  takePages: (key: string, pages: number[]) => void;
}

/** A file that is to be sent, whole or a page of it. */
export interface Waiting {
  key: string;
  file: File;
  setId: number;
  asDamaged?: boolean;
  page?: number;
}

const AT_ONCE = 1; // the server reads one at a time, and lays them in the order they come
const REFRESH_MS = 1000;
const OPEN: Incoming["outcome"][] = ["waiting", "sending", "reading"];
export const isOpen = ({ outcome }: Incoming): boolean => OPEN.includes(outcome);
/** Files by a key that sorts as they came. */
const kept = createStore("sequor-uploads", "files");
/** Held by the window that goes on with what another one left. */
const LOCK = "sequor-uploads";

/** `targetSet` says where the files go; it may have to begin a set first. */
export function useUploads(
  targetSet: () => Promise<number>,
  onAdded: () => Promise<void>,
): Uploads {
  const [incoming, setIncoming] = useState<Incoming[]>([]);
  const queue = useRef<Waiting[]>([]);
  const running = useRef(0);
  const refreshed = useRef(0);
  const next = useRef(0);
  /** Files of this window's own, that no other one left. */
  const own = useRef(new Set<string>());
  /** Files of which something has to be said first. */
  const asked = useRef(new Map<string, Waiting>());

  const update = useCallback((key: string, change: Partial<Incoming>) => {
    setIncoming((list) => list.map((item) => (item.key === key ? { ...item, ...change } : item)));
  }, []);

  const work = useCallback(async () => {
    running.current += 1;
    for (let one = queue.current.shift(); one; one = queue.current.shift()) {
      const { key } = one;
      const answered = await send(one, (change) => {
        if (change.asDamaged || change.pages) asked.current.set(key, one);
        update(key, change);
      });
      if (answered) await del(key, kept).catch(() => undefined);
      // A large set is not asked for after every file.
      if (Date.now() - refreshed.current > REFRESH_MS || queue.current.length === 0) {
        refreshed.current = Date.now();
        void onAdded();
      }
    }
    running.current -= 1;
  }, [update, onAdded]);

  const begin = useCallback(
    (waiting: Waiting[]) => {
      queue.current.push(...waiting);
      setIncoming((list) => [
        ...list,
        ...waiting.map(({ key, file, page }): Incoming => ({
          key,
          name: page ? t("{name}, page {page}", { name: file.name, page }) : file.name,
          share: 0,
          outcome: "waiting",
        })),
      ]);
      while (running.current < Math.min(AT_ONCE, queue.current.length + running.current))
        void work();
    },
    [work],
  );

  // What a reload interrupted goes on, in one window only.
  const began = useRef(false);
  useEffect(() => {
    if (began.current) return;
    began.current = true;
    void navigator.locks.request(LOCK, { ifAvailable: true }, async (lock) => {
      if (!lock) return;
      const left = await entries<string, Omit<Waiting, "key">>(kept).catch(() => []);
      const others = left.filter(([key]) => !own.current.has(key));
      if (others.length) begin(others.map(([key, one]) => ({ key, ...one })));
      await new Promise(() => undefined); // for as long as the window is open
    });
  }, [begin]);

  const add = useCallback(
    async (files: File[]) => {
      const setId = await targetSet();
      const stamp = Date.now().toString().padStart(15, "0");
      const fresh = files.map((file) => ({
        key: `${stamp}-${(next.current++).toString().padStart(6, "0")}`,
        file,
        setId,
      }));
      for (const { key } of fresh) own.current.add(key);
      // Put down before they are sent; a browser that keeps nothing only cannot go on later.
      await setMany(
        fresh.map(({ key, file }) => [key, { file, setId }]),
        kept,
      ).catch(() => undefined);
      begin(fresh);
    },
    [begin, targetSet],
  );

  const callOff = useCallback(() => {
    const left = queue.current.splice(0);
    for (const { key } of left) {
      update(key, { outcome: "called off", problem: t("not sent") });
      void del(key, kept).catch(() => undefined);
    }
  }, [update]);

  const clear = useCallback(() => setIncoming((list) => list.filter(isOpen)), []);

  const takeAnyway = useCallback(
    (key: string) => {
      const one = asked.current.get(key);
      if (!one) return;
      asked.current.delete(key);
      update(key, { outcome: "waiting", share: 0, problem: undefined, asDamaged: false });
      queue.current.push({ ...one, asDamaged: true });
      void work();
    },
    [update, work],
  );

  const takePages = useCallback(
    (key: string, pages: number[]) => {
      const one = asked.current.get(key);
      if (!one) return;
      asked.current.delete(key);
      setIncoming((list) => list.filter((item) => item.key !== key));
      begin(pages.map((page) => ({ ...one, key: `${key}-${page}`, page })));
    },
    [begin],
  );

  return { incoming, add, callOff, clear, takeAnyway, takePages };
}
