/* Why the server refused something, in its own words. */
import { t } from "../shared/words";

export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export function problemOf(body: unknown): string {
  if (typeof body === "object" && body !== null && "problem" in body) return String(body.problem);
  return t("The server gave an answer that makes no sense; reload the page.");
}

export const asRefused = (error: unknown): Refused =>
  error instanceof Refused ? error : new Refused(String(error), 0);
