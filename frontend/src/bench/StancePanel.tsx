/* Beside the vial: small vials for lean and swing, each with a field to type into, and how much of all is taken out. */
import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import type { Solution } from "../api/client";
import { SvgBox } from "../shared/SvgBox";
import { AngleField, type Said } from "./AngleField";
import { HoldButton } from "./HoldButton";
import { withEase } from "./recipes";
import { RecipeSlider } from "./RecipeSlider";
import type { Bench } from "./useBench";
import { useTube } from "./useTube";
import { useSize } from "./useView";

const Tube = chakra("div");
const RANGES_DEG = [10, 30, 80];
const NAMES = { lean: "Lean", swing: "Swing" } as const;
const WAYS = { lean: ["down", "up"], swing: ["left", "right"] } as const;

interface Props {
  bench: Bench;
  onTurning: (turning: boolean) => void;
  onSaid: (said: Said | undefined) => void;
}

/** The marked ease in per cent; which one looks natural is the server's rule. */
const naturalOf = (bench: Bench): number => Math.round(bench.solution.stance.natural_ease * 100);

export function StancePanel({ bench, onTurning, onSaid }: Props) {
  const natural = naturalOf(bench);
  return (
    <Flex direction="column" justify="center" gap="9px" width="stance" flexShrink={0} px="14px" borderLeftWidth="1px" borderColor="rule">
      <SmallVial bench={bench} axis="lean" onTurning={onTurning} onSaid={onSaid} />
      <SmallVial bench={bench} axis="swing" onTurning={onTurning} onSaid={onSaid} />
      <Flex align="center" gap="6px" fontSize="12px" title={`How much of the measured stance is taken out. The mark is at ${natural} %: a tall thing that is perfectly plumb seems to widen at its top.`}>
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
  const { at, hands, onKeyDown } = useTube(bench, axis, RANGES_DEG, width, 12, onTurning);
  const x = at(solved.applied_deg);
  return (
    <Flex align="center" gap="8px">
      <Text width="38px">{NAMES[axis]}</Text>
      <Tube
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label={NAMES[axis]}
        aria-valuemin={-80}
        aria-valuemax={80}
        aria-valuenow={Number(solved.applied_deg.toFixed(2))}
        aria-valuetext={solved.words}
        title={`How far the camera pointed ${WAYS[axis].join(" or ")}. Drag; with Shift or Alt ten times finer. ${solved.sigma_words}`}
        cursor="ew-resize"
        touchAction="none"
        borderRadius="9px"
        flex="1"
        height="18px"
        {...hands}
        onKeyDown={onKeyDown}
      >
        <SvgBox width="100%" height="18px" display="block" color="ink">
          <rect x=".5" y=".5" width={Math.max(width - 1, 0)} height="17" rx="8.5" fill="var(--tube)" stroke="currentColor" />
          <path d={`M${width / 2 - 12},1v16M${width / 2 + 12},1v16`} stroke="currentColor" strokeWidth=".8" />
          <ellipse cx={x} cy="9" rx="9.5" ry="5.6" fill="var(--bubble)" stroke="var(--rim)" />
        </SvgBox>
      </Tube>
      <AngleField acts={bench.acts} axis={axis} shown={solved.as_shot_words} label={`Camera pointed ${WAYS[axis].join(" or ")}`} width="104px" onSaid={onSaid} />
      <HoldButton acts={bench.acts} axis={axis} held={solved.held} now={solved.as_shot_deg} />
    </Flex>
  );
}

function Ease({ bench, part, label, width, mark }: { bench: Bench; part: "roll" | "perspective"; label: string; width: string; mark?: boolean }) {
  const natural = naturalOf(bench);
  const share = Math.round(bench.recipe.ease[part] * 100);
  const what = part === "roll" ? "roll eased" : "lean and swing eased";
  return (
    <>
      <RecipeSlider acts={bench.acts} entry={bench.state.entry_id} label={label} what={what} value={share} min={0} max={100} width={width} mark={mark ? natural : undefined} change={(recipe, value) => withEase(recipe, part, value / 100)} />
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
          onClick={() => void bench.acts.commit(withEase(bench.acts.latest(), part, share === natural ? 1 : natural / 100), what)}
        >
          natural
        </Button>
      )}
    </>
  );
}

/** What is known of the stance, in the field book. */
export function StanceWords({ stance }: { stance: Solution["stance"] }) {
  const rows = [
    ["Roll", stance.roll],
    ["Lean", stance.lean],
    ["Swing", stance.swing],
  ] as const;
  return (
    <Box as="section" aria-label="Stance" bg="paperDeep" borderTopWidth="1px" borderColor="rule" px="16px" py="8px" flexShrink={0}>
      {rows.map(([name, axis]) => (
        <Flex key={name} gap="8px" fontSize="12px" lineHeight="1.35" py="2px">
          <Text width="40px" flexShrink={0}>
            {name}
          </Text>
          <Box>
            {(axis.sigma_deg !== null || Math.abs(axis.applied_deg) > 0.005) && <Text fontFamily="mono">{axis.words}</Text>}
            <Text color="inkSoft">{axis.sigma_words}</Text>
          </Box>
        </Flex>
      ))}
    </Box>
  );
}
