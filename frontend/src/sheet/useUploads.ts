/* Files on their way into a set, each with its own progress and outcome, in their order. They are
   kept in the browser until they are sent, so that a reload goes on with them. */
import { createStore, del, entries, setMany } from "idb-keyval";
import { useCallback, useEffect, useRef, useState } from "react";
import { UNREACHABLE, type Added, type Problem } from "../api/client";
import { problemOf } from "../api/refused";

export interface Incoming {
  key: string;
  name: string;
  share: number;
  outcome: "waiting" | "sending" | "reading" | "added" | "known" | "refused" | "called off";
  problem?: string;
  /** It is damaged, and can be taken in as that. */
  asDamaged?: boolean;
}

export interface Uploads {
  incoming: Incoming[];
  add: (files: File[]) => Promise<void>;
  /** Send nothing that is not on its way yet. */
  callOff: () => void;
  clear: () => void;
  /** Take a damaged file in as it is. */
  takeAnyway: (key: string) => void;
}

interface Waiting {
  key: string;
  file: File;
  setId: number;
  asDamaged?: boolean;
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
  const damaged = useRef(new Map<string, Waiting>());

  const update = useCallback((key: string, change: Partial<Incoming>) => {
    setIncoming((list) => list.map((item) => (item.key === key ? { ...item, ...change } : item)));
  }, []);

  const work = useCallback(async () => {
    running.current += 1;
    for (let one = queue.current.shift(); one; one = queue.current.shift()) {
      const { key } = one;
      const answered = await send(one, (change) => {
        if (change.asDamaged) damaged.current.set(key, one);
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
        ...waiting.map(({ key, file }): Incoming => ({
          key,
          name: file.name,
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
      if (left.length) begin(left.map(([key, one]) => ({ key, ...one })));
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
      update(key, { outcome: "called off", problem: "not sent" });
      void del(key, kept).catch(() => undefined);
    }
  }, [update]);

  const clear = useCallback(() => setIncoming((list) => list.filter(isOpen)), []);

  const takeAnyway = useCallback(
    (key: string) => {
      const one = damaged.current.get(key);
      if (!one) return;
      damaged.current.delete(key);
      update(key, { outcome: "waiting", share: 0, problem: undefined, asDamaged: false });
      queue.current.push({ ...one, asDamaged: true });
      void work();
    },
    [update, work],
  );

  return { incoming, add, callOff, clear, takeAnyway };
}

/* fetch reports no progress while sending, so this one call uses XMLHttpRequest. Gives whether the
   server answered. */
function send(
  { setId, file, asDamaged }: Waiting,
  report: (change: Partial<Incoming>) => void,
): Promise<boolean> {
  return new Promise((done) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/sets/${setId}/pictures`);
    request.upload.onprogress = (event) => {
      const share = event.total ? event.loaded / event.total : 0;
      report({ share, outcome: share < 1 ? "sending" : "reading" });
    };
    request.onload = () => {
      const body: unknown = safeJson(request.responseText);
      if (request.status === 201) report({ outcome: "added", share: 1 });
      else if (request.status === 200)
        report({
          outcome: "known",
          share: 1,
          problem: `already here as ${(body as Added).picture.name}`,
        });
      else
        report({
          outcome: "refused",
          problem: problemOf(body),
          asDamaged: (body as Problem | null)?.as_damaged,
        });
      done(true);
    };
    request.onerror = () => {
      report({ outcome: "refused", problem: UNREACHABLE });
      done(false);
    };
    const form = new FormData();
    form.append("file", file);
    if (asDamaged) form.append("as_damaged", "true");
    request.send(form);
  });
}

function safeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
