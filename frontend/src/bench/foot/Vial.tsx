/* The vial: a long graduated tube. Its bubble says how the picture is turned; drag it, nudge it by
   key, or type the tilt. */
import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { SvgBox } from "../../shared/SvgBox";
import { AngleField, type Said } from "./AngleField";
import { HoldButton } from "./HoldButton";
import type { Bench } from "../useBench";
import { useSize } from "../../picture/useSize";
import { useAxis, useTube } from "./useTube";

const Tube = chakra("div");
const END_PX = 30;
const TYPE_HINT = "Type what you read off the picture; the opposite turn is made.";

interface Props {
  bench: Bench;
  onTurning: (turning: boolean) => void;
  said: Said | undefined;
  onSaid: (said: Said | undefined) => void;
}

export function Vial({ bench, onTurning, said, onSaid }: Props) {
  const [ref, { width }] = useSize<HTMLDivElement>();
  const { roll } = bench.solution.stance;
  const words = bench.report.roll;
  const { limit_deg: limit } = useAxis("roll");
  const least = -limit;
  const { range, at, drag } = useTube({ bench, axis: "roll", width, endPx: END_PX, onTurning });
  const step = range / 5;
  const marks = Array.from({ length: 51 }, (_, i) => (i - 25) * (range / 25));
  return (
    <Box px="16px" pt="7px" flex="1" minWidth="0">
      <Flex
        justify="space-between"
        align="center"
        color="inkSoft"
        fontSize="12px"
        mb="5px"
        gap="10px"
        whiteSpace="nowrap"
      >
        <Flex gap="10px" align="center">
          <HoldButton acts={bench.acts} axis="roll" held={roll.held} />
          <Text as="span" color="ink" fontWeight="600" fontFamily="mono" aria-live="polite">
            {words.applied}
            {words.deviation && (
              <Text as="span" color="inkSoft" fontWeight="400">{` ${words.deviation}`}</Text>
            )}
          </Text>
        </Flex>
        <Flex gap="8px" align="center">
          <Text as="span" color="ink">
            Tilt as shot
          </Text>
          <AngleField
            acts={bench.acts}
            axis="roll"
            shown={words.as_shot}
            label="Tilt as shot"
            width="164px"
            onSaid={onSaid}
          />
        </Flex>
      </Flex>
      <Tube
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label="Roll"
        aria-valuemin={least}
        aria-valuemax={limit}
        aria-valuenow={Number(roll.applied_deg.toFixed(2))}
        aria-valuetext={words.applied}
        title="Drag to turn the picture; with Alt ten times finer. Arrow keys nudge."
        cursor="ew-resize"
        touchAction="none"
        borderRadius="16px"
        {...drag()}
      >
        <SvgBox width="100%" height="60px" display="block" color="ink">
          <rect
            x="1"
            y="1"
            width={Math.max(width - 2, 0)}
            height="30"
            rx="15"
            fill="var(--tube)"
            stroke="currentColor"
            strokeWidth="1.2"
          />
          <path
            d={`M${width / 2 - 21},1v30M${width / 2 + 21},1v30`}
            stroke="currentColor"
            strokeWidth="1"
          />
          <g transform={`translate(${at(roll.applied_deg)} 0)`}>
            <ellipse cy="15" rx="17" ry="9.5" fill="var(--bubble)" stroke="var(--rim)" />
            <ellipse cx="-4" cy="11.5" rx="6" ry="2" fill="#fff" fillOpacity=".6" />
          </g>
          {marks.map((deg, i) => (
            <path key={i} d={`M${at(deg)},36v${i % 5 === 0 ? 9 : 4}`} stroke="var(--soft)" />
          ))}
          {Array.from({ length: 11 }, (_, i) => (i - 5) * step).map((deg) => (
            <text
              key={deg}
              x={at(deg)}
              y="57"
              textAnchor="middle"
              fontSize="11"
              fill="var(--soft)"
              fontFamily="IBM Plex Mono, monospace"
            >
              {deg === -range ? "↺ " : ""}
              {Math.abs(deg)}°{deg === range ? " ↻" : ""}
            </text>
          ))}
        </SvgBox>
      </Tube>
      <Flex
        justify="space-between"
        align="center"
        height="22px"
        fontSize="12px"
        whiteSpace="nowrap"
      >
        <Text
          color={said?.bad ? "brick" : "inkSoft"}
          role={said?.bad ? "alert" : "status"}
          overflow="hidden"
          textOverflow="ellipsis"
        >
          {said?.words ?? TYPE_HINT}
        </Text>
        {roll.trimmed && (
          <Button
            size="2xs"
            variant="plain"
            px="0"
            color="verdigris"
            fontWeight="600"
            onClick={() => void bench.acts.keep({ do: "reset_trim", axis: "roll" })}
          >
            {bench.recipe.readings.length ? "Back to what the readings say" : "Back to as shot"}
          </Button>
        )}
      </Flex>
    </Box>
  );
}
