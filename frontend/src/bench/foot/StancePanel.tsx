/* Beside the vial: small vials for lean and swing, each with a field to type into, and how much of
   all is taken out. */
import { Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useOptions } from "../../api/options";
import { SvgBox } from "../../shared/SvgBox";
import { EditSlider } from "../EditSlider";
import { useSize } from "../../picture/useSize";
import type { Bench } from "../useBench";
import { AngleField, type Said } from "./AngleField";
import { HoldButton } from "./HoldButton";
import { useAxis, useTube } from "./useTube";

const Tube = chakra("div");
const END_PX = 12;

interface Props {
  bench: Bench;
  onTurning: (turning: boolean) => void;
  onSaid: (said: Said | undefined) => void;
}

/** The marked ease in per cent; which one looks natural is the server's rule. */
const useNatural = (): number => Math.round(useOptions().natural_ease * 100);

export function StancePanel({ bench, onTurning, onSaid }: Props) {
  const natural = useNatural();
  return (
    <Flex
      direction="column"
      justify="center"
      gap="9px"
      width="stance"
      flexShrink={0}
      px="14px"
      borderLeftWidth="1px"
      borderColor="rule"
    >
      <SmallVial bench={bench} axis="lean" onTurning={onTurning} onSaid={onSaid} />
      <SmallVial bench={bench} axis="swing" onTurning={onTurning} onSaid={onSaid} />
      <Flex
        align="center"
        gap="6px"
        fontSize="12px"
        title={`How much of the measured stance is taken out. The mark is at ${natural} %: a tall thing that is perfectly plumb seems to widen at its top.`}
      >
        <Text width="38px" fontSize="13px">
          Ease
        </Text>
        <Ease bench={bench} part="perspective" label="Ease of lean and swing" width="78px" mark />
        <Text color="inkSoft" ml="4px">
          roll
        </Text>
        <Ease bench={bench} part="roll" label="Ease of roll" width="42px" />
      </Flex>
    </Flex>
  );
}

function SmallVial({ bench, axis, onTurning, onSaid }: Props & { axis: "lean" | "swing" }) {
  const [ref, { width }] = useSize<HTMLDivElement>();
  const solved = bench.solution.stance[axis];
  const words = bench.report[axis];
  const { name, ways, limit_deg: limit } = useAxis(axis);
  const least = -limit;
  const { at, drag, onKeyDown } = useTube({ bench, axis, width, endPx: END_PX, onTurning });
  const x = at(solved.applied_deg);
  return (
    <Flex align="center" gap="8px">
      <Text width="38px">{name}</Text>
      <Tube
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label={name}
        aria-valuemin={least}
        aria-valuemax={limit}
        aria-valuenow={Number(solved.applied_deg.toFixed(2))}
        aria-valuetext={words.applied}
        title={`How far the camera pointed ${ways.join(" or ")}. Drag; with Alt ten times finer. ${words.sigma}`}
        cursor="ew-resize"
        touchAction="none"
        borderRadius="9px"
        flex="1"
        height="18px"
        {...drag()}
        onKeyDown={onKeyDown}
      >
        <SvgBox width="100%" height="18px" display="block" color="ink">
          <rect
            x=".5"
            y=".5"
            width={Math.max(width - 1, 0)}
            height="17"
            rx="8.5"
            fill="var(--tube)"
            stroke="currentColor"
          />
          <path
            d={`M${width / 2 - 12},1v16M${width / 2 + 12},1v16`}
            stroke="currentColor"
            strokeWidth=".8"
          />
          <ellipse cx={x} cy="9" rx="9.5" ry="5.6" fill="var(--bubble)" stroke="var(--rim)" />
        </SvgBox>
      </Tube>
      <AngleField
        acts={bench.acts}
        axis={axis}
        shown={words.as_shot}
        label={`Camera pointed ${ways.join(" or ")}`}
        width="104px"
        onSaid={onSaid}
      />
      <HoldButton acts={bench.acts} axis={axis} held={solved.held} />
    </Flex>
  );
}

interface EaseProps {
  bench: Bench;
  part: "roll" | "perspective";
  label: string;
  width: string;
  mark?: boolean;
}

function Ease({ bench, part, label, width, mark }: EaseProps) {
  const natural = useNatural();
  const share = Math.round(bench.recipe.ease[part] * 100);
  const eased = (percent: number) => ({ do: "set_ease", part, share: percent / 100 }) as const;
  return (
    <>
      <EditSlider
        bench={bench}
        label={label}
        value={share}
        min={0}
        max={100}
        width={width}
        mark={mark ? natural : undefined}
        edit={eased}
      />
      <Text fontFamily="mono" width="42px" textAlign="right" whiteSpace="nowrap">
        {share} %
      </Text>
      {mark && (
        <Button
          size="2xs"
          height="20px"
          px="6px"
          variant="outline"
          borderColor={share === natural ? "verdigris" : "rule"}
          color={share === natural ? "verdigris" : "inkSoft"}
          aria-pressed={share === natural}
          title={`Take out ${natural} % of lean and swing: the slight remaining lean looks natural`}
          onClick={() => void bench.acts.keep(eased(share === natural ? 100 : natural))}
        >
          natural
        </Button>
      )}
    </>
  );
}
