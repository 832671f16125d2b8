/* Others at the same picture: who they are, and what they do as they do it. */
import { useEffect, useRef, useState } from "react";
import { useNews } from "../shared/useNews";

/**
 * @param ready Whether the bench may show something else now: nothing is in the hand.
 * @param load Show what is stored now.
 * @returns The names of others who look at the picture.
 */
export function useTogether(pictureId: number, ready: boolean, load: () => unknown): string[] {
  const [present, setPresent] = useState<string[]>([]);
  const waits = useRef(false);
  useEffect(() => {
    if (!ready || !waits.current) return;
    waits.current = false;
    void load();
  }, [ready, load]);
  useNews(`picture_id=${pictureId}`, {
    onChanged: () => {
      if (ready) void load();
      else waits.current = true;
    },
    onPresent: setPresent,
  });
  return present;
}
