/* Light or dark: what the person chose, else what the device prefers. One value for the window. */
import { useSyncExternalStore } from "react";

type Scheme = "light" | "dark";
const KEY = "sequor-scheme";
const device = window.matchMedia("(prefers-color-scheme: dark)");
const heard = new Set<() => void>();

function scheme(): Scheme {
  const chosen = localStorage.getItem(KEY);
  if (chosen === "light" || chosen === "dark") return chosen;
  return device.matches ? "dark" : "light";
}

/** Paint the page in it, and tell those who show which it is. */
export function applyScheme() {
  const now = scheme();
  document.documentElement.classList.toggle("dark", now === "dark");
  document.documentElement.classList.toggle("light", now === "light");
  heard.forEach((tell) => tell());
}

device.addEventListener("change", applyScheme);

function subscribe(tell: () => void) {
  heard.add(tell);
  return () => void heard.delete(tell);
}

function toggle() {
  localStorage.setItem(KEY, scheme() === "dark" ? "light" : "dark");
  applyScheme();
}

export const useScheme = (): [Scheme, () => void] => [
  useSyncExternalStore(subscribe, scheme),
  toggle,
];
