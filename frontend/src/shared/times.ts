/* Times and sizes in words. The server's times are UTC. */
import { decimal, locale, t } from "./words";

const DAY: Intl.DateTimeFormatOptions = { day: "numeric", month: "short", year: "numeric" };
const MINUTE: Intl.DateTimeFormatOptions = { hour: "2-digit", minute: "2-digit" };

const local = (utc: string) => new Date(utc.endsWith("Z") ? utc : `${utc}Z`);

export const dayWords = (utc: string): string => local(utc).toLocaleDateString(locale(), DAY);

export const timeWords = (utc: string): string =>
  `${dayWords(utc)}, ${local(utc).toLocaleTimeString(locale(), MINUTE)}`;

const UNITS = [t("bytes"), "kB", "MB", "GB", "TB"];

export function sizeWords(bytes: number): string {
  let [value, unit] = [bytes, 0];
  while (value >= 1000 && unit < UNITS.length - 1) [value, unit] = [value / 1000, unit + 1];
  return `${decimal(value, unit > 1 && value < 100 ? 1 : 0)} ${UNITS[unit]}`;
}
