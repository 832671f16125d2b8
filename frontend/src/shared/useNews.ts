/* What others do to a picture or a set, as they do it; nothing where there are no accounts. */
import { useEffect, useEffectEvent } from "react";
import { useMe } from "../api/me";
import { WINDOW } from "../api/client";

interface Heard {
  onChanged: () => void;
  onPresent?: (names: string[]) => void;
}

/** @param about Such as `picture_id=3`; undefined as long as it is not known. */
export function useNews(about: string | undefined, heard: Heard) {
  const { served } = useMe();
  const changed = useEffectEvent(heard.onChanged);
  const present = useEffectEvent((names: string[]) => heard.onPresent?.(names));
  useEffect(() => {
    if (!served || about === undefined) return;
    const news = new EventSource(`/api/events?${about}&window=${WINDOW}`);
    news.addEventListener("changed", () => changed());
    news.addEventListener("present", ({ data }: MessageEvent<string>) =>
      present(JSON.parse(data) as string[]),
    );
    return () => news.close();
  }, [served, about]);
}
