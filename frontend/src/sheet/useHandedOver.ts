/* Pictures that the system hands over: shared with Sequor, or opened with it. */
import { useEffect, useRef } from "react";
import { navigate } from "wouter/use-browser-location";

const KEPT = "sequor";
const SHARED = "/shared/";

interface Launched {
  files?: readonly { getFile: () => Promise<File> }[];
}
declare global {
  interface Window {
    launchQueue?: { setConsumer: (take: (launched: Launched) => void) => void };
  }
}

export function useHandedOver(add: (files: File[]) => Promise<void>) {
  const adding = useRef(add);
  useEffect(() => {
    adding.current = add;
  });
  useEffect(() => {
    window.launchQueue?.setConsumer(({ files = [] }) => {
      if (files.length)
        void Promise.all(files.map((one) => one.getFile())).then((all) => adding.current(all));
    });
    if (!new URLSearchParams(window.location.search).has("shared")) return;
    navigate(window.location.pathname, { replace: true });
    void takeShared().then((files) => (files.length ? adding.current(files) : undefined));
  }, []);
}

/** What the script beside the page laid down (public/sw.js); it is there once. */
async function takeShared(): Promise<File[]> {
  const kept = await caches.open(KEPT);
  const laid = (await kept.keys()).filter(({ url }) => new URL(url).pathname.startsWith(SHARED));
  return Promise.all(
    laid.map(async (request) => {
      const answer = await kept.match(request);
      await kept.delete(request);
      const name = decodeURIComponent(answer?.headers.get("X-Name") ?? "");
      return new File([(await answer?.blob()) ?? ""], name || "picture");
    }),
  );
}
