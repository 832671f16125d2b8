/* The act of speaking the next language, where there is another one. */
import { choose, nextLanguage } from "../shared/language";
import { alike, t } from "../shared/words";
import type { Action } from "./actions";

export function otherLanguage(): Action[] {
  const next = nextLanguage();
  if (!next) return [];
  const [code, name] = next;
  const also = alike(t("language, translate"));
  return [{ name, where: t("under the sets of the contact sheet"), also, act: () => choose(code) }];
}
