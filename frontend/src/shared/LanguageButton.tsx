/* The next language, by its own name: a press speaks it. */
import { QuietButton } from "./Part";
import { choose, nextLanguage } from "./language";

export function LanguageButton() {
  const next = nextLanguage();
  if (!next) return null;
  const [code, name] = next;
  return (
    <QuietButton px="8px" lang={code} onClick={() => choose(code)}>
      {name}
    </QuietButton>
  );
}
