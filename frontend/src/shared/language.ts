/* Which language the page speaks, and another one. */
import i18next from "i18next";
import { ENGLISH } from "./words";

const COOKIE = "sequor-language";
const COOKIE_S = 400 * 24 * 3600;

/** Speak another language from now on: the page is loaded anew. */
export function choose(code: string): void {
  document.cookie = `${COOKIE}=${code}; path=/; max-age=${COOKIE_S}; samesite=lax`;
  window.location.reload();
}

/** The language after the one that is spoken, with its own name; undefined where there is one. */
export function nextLanguage(): [string, string] | undefined {
  const all = window.spoken?.languages ?? [ENGLISH];
  const next = all[(all.indexOf(i18next.language) + 1) % all.length] ?? ENGLISH;
  if (all.length < 2) return undefined;
  return [next, new Intl.DisplayNames(next, { type: "language" }).of(next) ?? next];
}
