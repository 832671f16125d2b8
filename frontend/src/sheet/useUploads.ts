/* Files on their way into a set, each with its own progress and outcome; two at a time. */
import { useCallback, useRef, useState } from "react";
import { problemOf, UNREACHABLE, type Added } from "../api/client";

export interface Incoming {
  key: number;
  name: string;
  share: number;
  outcome: "waiting" | "sending" | "reading" | "added" | "known" | "refused";
  problem?: string;
}

const AT_ONCE = 2;

/** `targetSet` says where the files go; it may have to begin a set first. */
export function useUploads(targetSet: () => Promise<number>, onAdded: () => void) {
  const [incoming, setIncoming] = useState<Incoming[]>([]);
  const queue = useRef<{ key: number; file: File; setId: number }[]>([]);
  const running = useRef(0);
  const nextKey = useRef(1);

  const update = useCallback((key: number, change: Partial<Incoming>) => {
    setIncoming((list) => list.map((item) => (item.key === key ? { ...item, ...change } : item)));
  }, []);

  const work = useCallback(async () => {
    running.current += 1;
    for (let next = queue.current.shift(); next; next = queue.current.shift()) {
      const { key, setId: target, file } = next;
      await send(target, file, (change) => update(key, change));
      onAdded();
    }
    running.current -= 1;
  }, [update, onAdded]);

  const add = useCallback(
    async (files: File[]) => {
      const setId = await targetSet();
      const fresh = files.map((file) => ({ key: nextKey.current++, file, setId }));
      queue.current.push(...fresh);
      setIncoming((list) => [
        ...list,
        ...fresh.map(({ key, file }): Incoming => ({
          key,
          name: file.name,
          share: 0,
          outcome: "waiting",
        })),
      ]);
      while (running.current < Math.min(AT_ONCE, queue.current.length + running.current))
        void work();
    },
    [targetSet, work],
  );

  const clear = useCallback(() => {
    setIncoming((list) =>
      list.filter((item) => ["waiting", "sending", "reading"].includes(item.outcome)),
    );
  }, []);

  return { incoming, add, clear };
}

/* fetch reports no progress while sending, so this one call uses XMLHttpRequest. */
function send(
  setId: number,
  file: File,
  report: (change: Partial<Incoming>) => void,
): Promise<void> {
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
      else report({ outcome: "refused", problem: problemOf(body) });
      done();
    };
    request.onerror = () => {
      report({ outcome: "refused", problem: UNREACHABLE });
      done();
    };
    const form = new FormData();
    form.append("file", file);
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
