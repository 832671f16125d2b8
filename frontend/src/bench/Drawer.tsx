/* What stands beside the picture in a wide window, drawn up from below in one that is higher than
   wide: by its grip, by a press on it, or by the arrow keys. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import { useRef, useState, type KeyboardEvent, type ReactNode } from "react";
import { t } from "../shared/words";
import { clamp } from "../picture/geometry";

const OPEN = 0.31;
const MOST = 0.7;
/** Let go lower than this, it is closed. */
const LEAST = 0.08;
const KEY_STEP = 0.05;

interface Pulled {
  last: boolean;
  tap: boolean;
  movement: [number, number];
  /** The share before. */
  memo?: number;
}

interface Props {
  /** What is in it. */
  label: string;
  /** What it says while it is closed, too. */
  summary: string;
  children: ReactNode;
}

export function Drawer({ label, summary, children }: Props) {
  const [share, setShare] = useState(OPEN);
  const opened = useRef(OPEN);
  const pull = (next: number, rests: boolean) => {
    const placed = clamp(next, 0, MOST);
    setShare(rests && placed < LEAST ? 0 : placed);
    if (rests && placed >= LEAST) opened.current = placed;
  };
  const toggle = () => setShare(share > 0 ? 0 : opened.current);
  const drag = useDrag(
    ({ last, tap, movement: [, down], memo: before = share }: Pulled) => {
      if (tap) toggle();
      else pull(before - down / window.innerHeight, last);
      return before;
    },
    { pointer: { keys: false }, filterTaps: true },
  );
  const onKeyDown = (event: KeyboardEvent) => {
    const sense = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (sense) pull(share + sense * KEY_STEP, true);
    else if (event.key === "Enter" || event.key === " ") toggle();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Flex direction="column" flexShrink={0} minHeight="0" bg="paper">
      <Flex
        role="separator"
        aria-orientation="horizontal"
        aria-label={t("Height of the panel {label}", { label })}
        aria-valuemin={0}
        aria-valuemax={MOST * 100}
        aria-valuenow={Math.round(share * 100)}
        aria-valuetext={
          share > 0 ? t("{share} % of the window", { share: Math.round(share * 100) }) : t("closed")
        }
        tabIndex={0}
        {...drag()}
        onKeyDown={onKeyDown}
        touchAction="none"
        userSelect="none"
        cursor="ns-resize"
        position="relative"
        height="34px"
        flexShrink={0}
        align="center"
        justify="space-between"
        gap="60px"
        px="14px"
        borderTopWidth="1px"
        borderColor="rule"
        bg="sheet"
        _focusVisible={{ outlineOffset: "-3px" }}
      >
        <Box
          position="absolute"
          left="50%"
          top="7px"
          width="40px"
          ml="-20px"
          height="4px"
          borderRadius="2px"
          bg="inkSoft"
        />
        <Text fontWeight="600" truncate title={label}>
          {label}
        </Text>
        <Text color="inkSoft" fontSize="12px" truncate title={summary}>
          {summary}
        </Text>
      </Flex>
      <Flex
        direction="column"
        minHeight="0"
        overflow="hidden"
        display={share > 0 ? undefined : "none"}
        style={{ height: `${share * 100}dvh` }}
      >
        {children}
      </Flex>
    </Flex>
  );
}
