/* For those without keys: the end that a finger let go is moved by single pixels, and what is
   tapped point by point is ended. */
import { Flex } from "@chakra-ui/react";
import { ArrowDown, ArrowLeft, ArrowRight, ArrowUp, Check, type LucideIcon } from "lucide-react";
import { t } from "../../shared/words";
import { IconButton } from "../../shared/IconButton";
import type { Edit } from "../../api/client";
import type { KeyedEnd } from "./ReadingOnStage";
import { REACH_PX } from "./tools";
import { StageButton } from "./StageParts";

const WAYS: [string, LucideIcon, [number, number]][] = [
  ["left", ArrowLeft, [-1, 0]],
  ["up", ArrowUp, [0, -1]],
  ["down", ArrowDown, [0, 1]],
  ["right", ArrowRight, [1, 0]],
];

interface Props {
  end: KeyedEnd;
  onNudge: (edit: Edit) => void;
  onDone: () => void;
}

export function EndPad({ end: { id, end: point }, onNudge, onDone }: Props) {
  return (
    <Flex
      role="group"
      aria-label={t("Move the end by pixels")}
      position="absolute"
      zIndex="1"
      bottom="10px"
      left="50%"
      transform="translateX(-50%)"
      gap="4px"
      onPointerDown={(event) => event.stopPropagation()}
    >
      {WAYS.map(([way, icon, by]) => (
        <IconButton
          key={way}
          {...FINGER}
          label={t("One pixel {way}", { way: t(way) })}
          icon={icon}
          onClick={() => onNudge({ do: "nudge_point", id, point, by })}
        />
      ))}
      <IconButton {...FINGER} label={t("Done")} icon={Check} color="verdigris" onClick={onDone} />
    </Flex>
  );
}

const FINGER = { height: `${2 * REACH_PX}px`, minWidth: `${2 * REACH_PX}px` };

/** Ends a trace or a set-out line. */
export function EndPlaced({ onEnd }: { onEnd: () => void }) {
  return (
    <Flex position="absolute" zIndex="1" bottom="52px" left="50%" transform="translateX(-50%)">
      <StageButton label={t("End the line")} onClick={onEnd} />
    </Flex>
  );
}
