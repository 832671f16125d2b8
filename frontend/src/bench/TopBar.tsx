/* The head of the bench: where we are, the steps and what they have come to, undo, compare. */
import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { memo } from "react";
import { Link } from "react-router";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { SchemeButton } from "../shared/SchemeButton";
import { SHOWINGS, type Showing } from "./stage/Compare";
import type { Bench } from "./useBench";

export const STEPS = ["lens", "measure", "frame", "export"] as const;
export type Step = (typeof STEPS)[number];
const NAMES: Record<Step, string> = {
  lens: "Lens",
  measure: "Measure",
  frame: "Frame",
  export: "Export",
};
const StepButton = chakra("button");

interface Props {
  bench: Bench;
  step: Step;
  onStep: (step: Step) => void;
  showing: Showing;
  onShowing: (showing: Showing) => void;
  onKeys: () => void;
}

export const TopBar = memo(function TopBar({
  bench,
  step,
  onStep,
  showing,
  onShowing,
  onKeys,
}: Props) {
  const { state } = bench;
  const { steps } = bench.report;
  return (
    <PageHeader>
      <Brand to={`/sets/${state.set_id}`} title={state.file.name}>
        {state.file.taken_damaged && (
          <Text as="span" color="brick" title={state.file.taken_damaged}>
            {"damaged file · "}
          </Text>
        )}
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
              <Text as="span" color={steps[name].done ? "verdigris" : "inkSoft"} mr="6px">
                {index + 1}
              </Text>
              {NAMES[name]}
            </Text>
            <Text fontSize="12px" color="inkSoft" whiteSpace="nowrap">
              {steps[name].summary}
            </Text>
          </StepButton>
        ))}
      </Flex>
      <Flex flex="1" align="center" justify="flex-end" gap="8px" px="14px">
        <BarButton
          label="Undo"
          title={`Undo: ${state.what} (Ctrl Z)`}
          onClick={() => void bench.acts.undo()}
          disabled={!state.can_undo}
        >
          ↶
        </BarButton>
        <BarButton
          label="Redo"
          title="Redo (Ctrl Shift Z)"
          onClick={() => void bench.acts.redo()}
          disabled={!state.can_redo}
        >
          ↷
        </BarButton>
        <Flex
          borderWidth="1px"
          borderColor="rule"
          borderRadius="6px"
          overflow="hidden"
          role="group"
          aria-label="View"
        >
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
    </PageHeader>
  );
});

function BarButton({
  label,
  title,
  children,
  onClick,
  disabled,
}: {
  label: string;
  title: string;
  children: string;
  onClick: () => void;
  disabled?: boolean;
}) {
  return (
    <Box>
      <Button
        size="xs"
        height="30px"
        minWidth="32px"
        variant="outline"
        borderColor="rule"
        bg="sheet"
        color="ink"
        aria-label={label}
        title={title}
        onClick={onClick}
        disabled={disabled}
      >
        {children}
      </Button>
    </Box>
  );
}
