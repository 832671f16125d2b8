/* Words, numbers and dates in the language of the page: the one that the server answered in, with
   its catalogue beside it (src/sequor/web/pages.py). Every sentence is written in English where it
   is said, by `t`, or by `tn` where it counts something; the other languages are in
   src/sequor/locale. */
import i18next, { t, type TOptions } from "i18next";

declare global {
  interface Window {
    /** What is said in this language, and all that can be spoken. */
    spoken?: { words: Record<string, string>; languages: string[] };
  }
}

export const ENGLISH = "en";
const lng = typeof document === "undefined" ? ENGLISH : document.documentElement.lang;
// Here, so that nothing that says something is loaded before: names of tools are said at once.
void i18next.init({
  lng,
  resources: {
    [lng]: {
      translation: (typeof window === "undefined" ? undefined : window.spoken?.words) ?? {},
    },
  },
  initAsync: false,
  // Sentences are their own keys; a value stands in one as `{name}`.
  keySeparator: false,
  nsSeparator: false,
  contextSeparator: "|",
  interpolation: { prefix: "{", suffix: "}", escapeValue: false },
});
export { t };

const spoken = () => i18next.resolvedLanguage ?? ENGLISH;
/** How dates and numbers are written: English ones as in Britain. */
export const locale = () => (spoken() === ENGLISH ? "en-GB" : spoken());

/** A sentence by a count, which stands in it as `{n}`. */
export const tn = (one: string, other: string, count: number, values?: TOptions): string =>
  t(other, {
    defaultValue_one: one,
    defaultValue_other: other,
    ...values,
    count,
    n: count.toLocaleString(locale()),
  });

/** A number with so many places. */
export const decimal = (value: number, places = 0): string =>
  value.toLocaleString(locale(), {
    minimumFractionDigits: places,
    maximumFractionDigits: places,
    useGrouping: false,
  });

/** A label in the middle of a sentence: English writes it small, others as they have it. */
export const inSentence = (label: string): string =>
  spoken() === ENGLISH ? label.toLowerCase() : label;

/** What else something is called, for finding it. */
export const alike = (words: string): string[] => words.split(", ");
