/* Light or dark: what the person chose, else what the device prefers. */
import { useEffect, useState } from "react";

type Scheme = "light" | "dark";
const KEY = "sequor-scheme";

function initial(): Scheme {
  const chosen = localStorage.getItem(KEY);
  if (chosen === "light" || chosen === "dark") return chosen;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function useScheme(): [Scheme, () => void] {
  const [scheme, setScheme] = useState<Scheme>(initial);
  useEffect(() => {
    document.documentElement.classList.toggle("dark", scheme === "dark");
    document.documentElement.classList.toggle("light", scheme === "light");
  }, [scheme]);
  const toggle = () => {
    const next = scheme === "dark" ? "light" : "dark";
    localStorage.setItem(KEY, next);
    setScheme(next);
  };
  return [scheme, toggle];
}
