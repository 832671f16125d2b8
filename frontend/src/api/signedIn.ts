/* Being signed in: what every change names besides, and where one signs in. */
const HEADER = "X-CSRF-Token";
const ENTRANCES = ["/sign-in", "/invitation/", "/shown/"];

/** Whether this page is for those who are not known yet. */
export const isEntrance = (): boolean =>
  ENTRANCES.some((start) => window.location.pathname.startsWith(start));

/** What the page was given to name with every change; nothing where nobody signs in. */
export function named(): Record<string, string> {
  const given = document.querySelector<HTMLMetaElement>('meta[name="sequor-csrf"]')?.content;
  return given ? { [HEADER]: given } : {};
}

/** Go where one signs in, and come back here. */
export function signInFirst() {
  if (isEntrance()) return;
  const here = window.location.pathname + window.location.search;
  window.location.assign(`/sign-in?to=${encodeURIComponent(here)}`);
}

/** Where to go after signing in: an address of this site, whatever stands in the address. */
export function whereTo(search: string): string {
  const to = new URLSearchParams(search).get("to") ?? "/";
  const url = new URL(to, window.location.origin);
  return url.origin === window.location.origin ? url.pathname + url.search : "/";
}
