/* Waiting for a server that is not ready: what it put off is asked again until it is done, and the
   page is told meanwhile. The server answers 503 only when nothing was changed. */
import { useSyncExternalStore } from "react";

const AGAIN_MS = 1000;
const PATIENCE_MS = 120_000;
let waiting = 0;
const listeners = new Set<() => void>();

function count(change: number) {
  waiting += change;
  listeners.forEach((listener) => listener());
}

/** Like fetch; asks again what is put off, and what only reads also when nobody answers. */
export async function patientFetch(request: Request): Promise<Response> {
  const deadline = Date.now() + PATIENCE_MS;
  const reads = request.method === "GET";
  let told = false;
  try {
    for (;;) {
      const answer = await fetch(request.clone()).catch((problem: unknown) => {
        if (!reads || Date.now() > deadline || request.signal.aborted) throw problem;
      });
      if (answer && (answer.status !== 503 || Date.now() > deadline)) return answer;
      if (isHealth(request) && answer) return answer;
      if (!told) count(1);
      told = true;
      await new Promise((done) => setTimeout(done, AGAIN_MS));
    }
  } finally {
    if (told) count(-1);
  }
}

const isHealth = (request: Request) => new URL(request.url).pathname === "/api/health";

/** Whether anything waits for the server to be ready. */
export const useWaiting = (): boolean =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => waiting > 0,
  );
