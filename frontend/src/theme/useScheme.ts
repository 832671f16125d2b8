/* Light or dark: what the person chose, else what the device prefers. */
import { useEffect, useState } from "react";

type Scheme = "light" | "dark";
const KEY = "sequor-scheme";
const DARK = "(prefers-color-scheme: dark)";

function initial(): Scheme {
  const chosen = localStorage.getItem(KEY);
  if (chosen === "light" || chosen === "dark") return chosen;
  return window.matchMedia(DARK).matches ? "dark" : "light";
}

export function useScheme(): [Scheme, () => void] {
  const [scheme, setScheme] = useState<Scheme>(initial);
  useEffect(() => {
    document.documentElement.classList.toggle("dark", scheme === "dark");
    document.documentElement.classList.toggle("light", scheme === "light");
  }, [scheme]);
  useEffect(() => {
    // As long as nothing was chosen, it follows the device.
    const device = window.matchMedia(DARK);
    const follow = () => setScheme(initial());
    device.addEventListener("change", follow);
    return () => device.removeEventListener("change", follow);
  }, []);
  const toggle = () => {
    const next = scheme === "dark" ? "light" : "dark";
    localStorage.setItem(KEY, next);
    setScheme(next);
  };
  return [scheme, toggle];
}
