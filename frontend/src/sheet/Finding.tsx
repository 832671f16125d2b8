/* Which pictures of a set are shown, and in which order. */
import { Input } from "@chakra-ui/react";
import { useRef } from "react";
import { t } from "../shared/words";
import { Choice } from "../shared/Part";
import { useKeys, within } from "../shared/keys";
import { FILTERS, ORDERS, type Arrangement } from "./arranging";

interface Props {
  arrangement: Arrangement;
  onChange: (arrangement: Arrangement) => void;
}

export function Finding({ arrangement, onChange }: Props) {
  const finder = useRef<HTMLInputElement>(null);
  const { words, filter, order } = arrangement;
  const setWords = (next: string) => onChange({ ...arrangement, words: next });
  useKeys(["/"], (event) => {
    if (within(event, "input")) return;
    event.preventDefault();
    finder.current?.focus();
  });
  return (
    <>
      <Input
        ref={finder}
        size="xs"
        height="30px"
        width="92px"
        bg="sheet"
        borderColor="rule"
        aria-label={t("Find by name")}
        placeholder={t("Find  /")}
        value={words}
        onChange={(event) => setWords(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Escape") return;
          setWords("");
          event.currentTarget.blur();
        }}
      />
      <Choice
        label={t("Which pictures are shown")}
        value={filter}
        options={FILTERS}
        width="122px"
        onChoose={(next) => onChange({ ...arrangement, filter: next })}
      />
      <Choice
        label={t("In which order")}
        value={order}
        options={ORDERS}
        width="122px"
        onChoose={(next) => onChange({ ...arrangement, order: next })}
      />
    </>
  );
}
