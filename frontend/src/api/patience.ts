/* Waiting for a server that is not ready: what it put off, or did not answer, is asked again until
   it is done, and the page is told meanwhile. A change names itself by a key, so that the server
   does it once however often it is asked. */
import { useSyncExternalStore } from "react";

const KEY = "Idempotency-Key";
const AGAIN_MS = 1000;
const PATIENCE_MS = 120_000;
let waiting = 0;
const listeners = new Set<() => void>();

function count(change: number) {
  waiting += change;
  listeners.forEach((listener) => listener());
}

/** Like fetch; asks again what is put off, and what may be asked twice also when nobody answers. */
export async function patientFetch(given: Request): Promise<Response> {
  const deadline = Date.now() + PATIENCE_MS;
  const request = named(given);
  const twice = request.method === "GET" || request.headers.has(KEY);
  let told = false;
  try {
    for (;;) {
      const answer = await fetch(request.clone()).catch((problem: unknown) => {
        if (!twice || Date.now() > deadline || request.signal.aborted) throw problem;
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

/** A name that nobody else gives: browsers have randomUUID only where a connection is safe. */
export const newId = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) =>
    byte.toString(16).padStart(2, "0"),
  ).join("");

/** A change with a key of its own; a file is known by its content. */
function named(request: Request): Request {
  const isFile = request.headers.get("Content-Type")?.startsWith("multipart/");
  if (request.method === "GET" || isFile) return request;
  const headers = new Headers(request.headers);
  headers.set(KEY, newId());
  return new Request(request, { headers });
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
