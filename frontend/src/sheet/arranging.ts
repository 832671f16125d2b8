/* How the pictures of a set are put in order, and which of them are shown. */
import { locale, t } from "../shared/words";
import type { PictureSummary } from "../api/client";

export const ORDERS = [
  { value: "added", label: t("As they came") },
  { value: "taken", label: t("Time taken") },
  { value: "name", label: t("Name") },
  { value: "tilt", label: t("Most tilted first") },
  { value: "state", label: t("State") },
] as const;
export type Order = (typeof ORDERS)[number]["value"];

export const FILTERS = [
  { value: "all", label: t("All pictures") },
  { value: "new", label: t("Not measured") },
  { value: "unsure", label: t("Sequor is unsure") },
  { value: "measured", label: t("Measured") },
  { value: "framed", label: t("Framed") },
  { value: "exported", label: t("Exported") },
  { value: "lost", label: t("File lost") },
] as const;
export type Filter = (typeof FILTERS)[number]["value"];

/** How the pictures of a set are shown: in which order, which of them, and of what name. */
export interface Arrangement {
  order: Order;
  filter: Filter;
  words: string;
}
export const AS_THEY_CAME: Arrangement = { order: "added", filter: "all", words: "" };

/** A picture with its further versions. */
export interface Group {
  first: PictureSummary;
  others: PictureSummary[];
}

const STATES: PictureSummary["state"][] = ["new", "measured", "framed", "exported"];
const names = new Intl.Collator(locale(), { numeric: true, sensitivity: "base" });

const BEFORE: Record<Order, (a: PictureSummary, b: PictureSummary) => number> = {
  added: () => 0,
  taken: (a, b) => (a.taken_at ?? "9").localeCompare(b.taken_at ?? "9"),
  name: (a, b) => names.compare(a.name, b.name),
  tilt: (a, b) => b.tilt_deg - a.tilt_deg,
  state: (a, b) => STATES.indexOf(a.state) - STATES.indexOf(b.state),
};

/** The versions of one original stand together, at the place of the first. */
export function grouped(pictures: PictureSummary[]): Group[] {
  const groups = new Map<string, PictureSummary[]>();
  for (const picture of pictures) {
    const known = groups.get(picture.group);
    if (known) known.push(picture);
    else groups.set(picture.group, [picture]);
  }
  return [...groups.values()].map((versions) => {
    const [first, ...others] = [...versions].sort((a, b) => a.version - b.version);
    return { first: first as PictureSummary, others };
  });
}

export function arranged(groups: Group[], { order, filter, words }: Arrangement): Group[] {
  const wanted = words.trim().toLowerCase();
  return groups
    .filter(({ first, others }) => {
      const versions = [first, ...others];
      return (
        versions.some((one) => shown(one, filter)) &&
        versions.some((one) => `${one.name} ${one.version_name}`.toLowerCase().includes(wanted))
      );
    })
    .sort((a, b) => BEFORE[order](a.first, b.first));
}

function shown(picture: PictureSummary, filter: Filter): boolean {
  if (filter === "all") return true;
  if (filter === "lost") return picture.lost;
  if (filter === "unsure") return picture.told === "unsure" && picture.state === "new";
  return picture.state === filter;
}
