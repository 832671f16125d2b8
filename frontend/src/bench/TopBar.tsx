/* The head of the bench: where we are, the steps and what they have come to, undo, compare. */
import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { memo } from "react";
import { Link } from "react-router";
import { Brand } from "../shared/Brand";
import { SchemeButton } from "../shared/SchemeButton";
import { SHOWINGS, type Showing } from "./Compare";
import type { Bench } from "./useBench";

export const STEPS = ["lens", "measure", "frame", "export"] as const;
export type Step = (typeof STEPS)[number];
const NAMES: Record<Step, string> = { lens: "Lens", measure: "Measure", frame: "Frame", export: "Export" };
const StepButton = chakra("button");

interface Props {
  bench: Bench;
  step: Step;
  onStep: (step: Step) => void;
  showing: Showing;
  onShowing: (showing: Showing) => void;
  onKeys: () => void;
}

export const TopBar = memo(function TopBar({ bench, step, onStep, showing, onShowing, onKeys }: Props) {
  const { state } = bench;
  return (
    <Flex as="header" height="topBar" flexShrink={0} borderBottomWidth="1px" borderColor="rule" bg="sheet">
      <Brand to={`/sets/${state.set_id}`} title={state.file.name}>
        Sequor / <Link to={`/sets/${state.set_id}`}>{state.set_name}</Link>
      </Brand>
      <Flex as="nav" aria-label="Steps">
        {STEPS.map((name, index) => (
          <StepButton
            key={name}
            aria-current={name === step ? "step" : undefined}
            onClick={() => onStep(name)}
            textAlign="left"
            px="14px"
            minWidth="104px"
            borderRightWidth="1px"
            borderColor="ruleFaint"
            cursor="pointer"
            bg={name === step ? "paperDeep" : undefined}
            boxShadow={name === step ? "inset 0 -3px {colors.verdigris}" : undefined}
            _hover={{ bg: "paperDeep" }}
          >
            <Text fontWeight="600">
              <Text as="span" color={done(bench, name) ? "verdigris" : "inkSoft"} mr="6px">
                {index + 1}
              </Text>
              {NAMES[name]}
            </Text>
            <Text fontSize="12px" color="inkSoft" whiteSpace="nowrap">
              {summary(bench, name)}
            </Text>
          </StepButton>
        ))}
      </Flex>
      <Flex flex="1" align="center" justify="flex-end" gap="8px" px="14px">
        <BarButton label="Undo" title={`Undo: ${state.what} (Ctrl Z)`} onClick={() => void bench.acts.undo()} disabled={!state.can_undo}>
          ↶
        </BarButton>
        <BarButton label="Redo" title="Redo (Ctrl Shift Z)" onClick={() => void bench.acts.redo()} disabled={!state.can_redo}>
          ↷
        </BarButton>
        <Flex borderWidth="1px" borderColor="rule" borderRadius="6px" overflow="hidden" role="group" aria-label="View">
          {SHOWINGS.map(([name, label, title]) => (
            <StepButton
              key={name}
              aria-pressed={showing === name}
              onClick={() => onShowing(name)}
              title={title}
              height="28px"
              px="9px"
              cursor="pointer"
              whiteSpace="nowrap"
              bg={showing === name ? "ink" : "sheet"}
              color={showing === name ? "paper" : "ink"}
            >
              {label}
            </StepButton>
          ))}
        </Flex>
        <SchemeButton />
        <BarButton label="Keys" title="Keys (?)" onClick={onKeys}>
          ?
        </BarButton>
      </Flex>
    </Flex>
  );
});

function BarButton({ label, title, children, onClick, disabled }: { label: string; title: string; children: string; onClick: () => void; disabled?: boolean }) {
  return (
    <Box>
      <Button size="xs" height="30px" minWidth="32px" variant="outline" borderColor="rule" bg="sheet" color="ink" aria-label={label} title={title} onClick={onClick} disabled={disabled}>
        {children}
      </Button>
    </Box>
  );
}

function done(bench: Bench, step: Step): boolean {
  const { stance, focal } = bench.solution;
  if (step === "lens") return focal.source !== "assumed";
  if (step === "measure") return bench.recipe.readings.length > 0 || [stance.roll, stance.lean, stance.swing].some((axis) => Math.abs(axis.applied_deg) > 0.005);
  const { frame, corners } = bench.recipe;
  return step === "frame" && (frame.ratio !== "original" || Boolean(frame.print_size ?? frame.placed ?? frame.keep ?? frame.aim) || corners.allowance > 0);
}

function summary(bench: Bench, step: Step): string {
  const { readings } = bench.recipe;
  const off = readings.filter((reading) => !reading.active).length;
  if (step === "lens") {
    const { focal, bow } = bench.solution;
    return `${Number(focal.focal35_mm.toFixed(1))} mm${focal.source === "assumed" ? " assumed" : ""}${bow.source === "none" ? "" : `, ${bow.words.split(",")[0]}`}`;
  }
  if (step === "measure") return readings.length === 0 ? "no readings" : `${readings.length} ${readings.length === 1 ? "reading" : "readings"}${off ? `, ${off} off` : ""}`;
  if (step === "frame") {
    const { ratio, print_size: print } = bench.recipe.frame;
    const shape = print ? `${print.width} × ${print.height} ${print.unit}` : ratio === "original" ? "as shot" : ratio.includes("1.41421") ? "A sheet" : ratio;
    return `${shape}, ${(bench.solution.kept_fraction * 100).toFixed(1)} % kept`;
  }
  return bench.recipe.frame.print_size ? "print size" : "file and size";
}
