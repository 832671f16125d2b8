/* Three things that are learnt by doing them, each told once it is of use. What was done, or waved
   off, is never told again in this browser. */
import { Flex, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useEffect, useState } from "react";
import { t } from "../shared/words";
import { IconButton } from "../shared/IconButton";
import { PRESSED_LONG } from "../shared/LongPress";
import { useRoom } from "../shared/useWindow";

const KEPT = "sequor-learnt";
const LOOKED_AT = ["keydown", "touchstart", PRESSED_LONG];

interface Told {
  id: string;
  words: string;
  /** Whether what was just pressed, or touched, is it. */
  done: (event: Event) => boolean;
}

const byKey =
  (...keys: string[]) =>
  (event: Event) =>
    event instanceof KeyboardEvent && keys.includes(event.key.toLowerCase());
const touches = (event: Event) => ("touches" in event ? (event as TouchEvent).touches.length : 0);
const undoing = (event: Event) =>
  touches(event) > 0 &&
  event.target instanceof Element &&
  event.target.closest("[data-undo]") !== null;

const WITH_KEYS: Told[] = [
  { id: "before", words: t("Hold B: before, in place"), done: byKey("b") },
  { id: "over", words: t("X turns the lit line over: lying, standing"), done: byKey("x") },
  { id: "find", words: t("/ finds anything, ? shows all keys"), done: byKey("/", "?") },
];
const WITH_FINGERS: Told[] = [
  {
    id: "fingers",
    words: t("Two fingers zoom and move the picture"),
    done: (event) => touches(event) > 1,
  },
  { id: "undo", words: t("The bent arrow at the top takes the last act back"), done: undoing },
  {
    id: "press",
    words: t("A finger that rests on something is told what it does"),
    done: ({ type }) => type === PRESSED_LONG,
  },
];

const learnt = (): string[] => {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "[]");
    return Array.isArray(kept) ? kept.map(String) : [];
  } catch {
    return [];
  }
};

/** @param readings So many there are: each lesson waits for one more. */
export function Lesson({ readings }: { readings: number }) {
  const { coarse, fingers: touched } = useRoom();
  const [known, setKnown] = useState(learnt);
  const all = coarse || touched ? WITH_FINGERS : WITH_KEYS;
  const next = all.find(({ id }) => !known.includes(id));
  const told = next && readings > all.indexOf(next) ? next : undefined;
  const learn = (id: string) => {
    const now = [...new Set([...learnt(), id])];
    localStorage.setItem(KEPT, JSON.stringify(now));
    setKnown(now);
  };
  useEffect(() => {
    if (!told) return;
    const look = (event: Event) => {
      if (told.done(event)) learn(told.id);
    };
    for (const kind of LOOKED_AT) window.addEventListener(kind, look);
    return () => {
      for (const kind of LOOKED_AT) window.removeEventListener(kind, look);
    };
  });
  if (!told) return null;
  return (
    <Flex
      data-hint={told.id}
      align="center"
      gap="8px"
      pl="16px"
      pr="8px"
      py="4px"
      borderTopWidth="1px"
      borderColor="rule"
      bg="highlight"
      fontSize="12px"
      flexShrink={0}
    >
      <Text flex="1">{told.words}</Text>
      <IconButton
        label={t("Not again")}
        icon={X}
        height="24px"
        minWidth="24px"
        onClick={() => learn(told.id)}
      />
    </Flex>
  );
}
