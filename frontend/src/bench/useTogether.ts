/* Others at the same picture: who they are, and what they do as they do it. */
import { useEffect, useRef, useState } from "react";
import { useMe } from "../api/me";
import { WINDOW } from "../api/client";

/**
 * @param ready Whether the bench may show something else now: nothing is in the hand.
 * @param load Show what is stored now.
 * @returns The names of others who look at the picture.
 */
export function useTogether(pictureId: number, ready: boolean, load: () => unknown): string[] {
  const { served } = useMe();
  const [present, setPresent] = useState<string[]>([]);
  const may = useRef(ready);
  const waits = useRef(false);
  useEffect(() => {
    may.current = ready;
    if (!ready || !waits.current) return;
    waits.current = false;
    void load();
  }, [ready, load]);
  useEffect(() => {
    if (!served) return;
    const news = new EventSource(`/api/events?picture_id=${pictureId}&window=${WINDOW}`);
    news.addEventListener("changed", () => {
      if (may.current) void load();
      else waits.current = true;
    });
    news.addEventListener("present", ({ data }: MessageEvent<string>) =>
      setPresent(JSON.parse(data) as string[]),
    );
    return () => news.close();
  }, [served, pictureId, load]);
  return present;
}
