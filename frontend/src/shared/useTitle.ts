/* What the window is called while a page is shown. */
import { useEffect } from "react";

export function useTitle(words: string | undefined) {
  useEffect(() => {
    document.title = words ? `${words} · Sequor` : "Sequor";
    return () => {
      document.title = "Sequor";
    };
  }, [words]);
}
