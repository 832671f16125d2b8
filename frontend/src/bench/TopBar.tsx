/* The head of the bench: where we are, the steps and what they have come to, undo, compare. */
import { Box, Button, chakra, Flex, Menu, Portal, Text } from "@chakra-ui/react";
import { memo } from "react";
import { Link } from "react-router";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { SchemeButton } from "../shared/SchemeButton";
import { COMPARED, SHOWINGS, type Showing } from "./stage/showing";
import { STEP_NAMES, STEPS, type Step } from "./steps";
import type { Bench } from "./useBench";

const StepButton = chakra("button");

interface Props {
  bench: Bench;
  step: Step;
  onStep: (step: Step) => void;
  showing: Showing;
  onShowing: (showing: Showing) => void;
  onKeys: () => void;
  onFind: () => void;
}

export const TopBar = memo(function TopBar({
  bench,
  step,
  onStep,
  showing,
  onShowing,
  onKeys,
  onFind,
}: Props) {
  const { state } = bench;
  const { steps } = bench.report;
  return (
    <PageHeader>
      <Brand narrow to={`/sets/${state.set_id}`} title={state.file.name} about={state.set_name}>
        {state.file.taken_damaged && (
          <Text as="span" color="brick" title={state.file.taken_damaged}>
            {"damaged file · "}
          </Text>
        )}
        Sequor / <Link to={`/sets/${state.set_id}`}>{state.set_name}</Link>
      </Brand>
      <Flex as="nav" aria-label="Steps" flexShrink={0}>
        {STEPS.map((name, index) => (
          <StepButton
            key={name}
            aria-current={name === step ? "step" : undefined}
            onClick={() => onStep(name)}
            textAlign="left"
            px={{ base: "9px", xl: "12px" }}
            title={`${STEP_NAMES[name]} (${index + 1}): ${steps[name].summary}`}
            borderRightWidth="1px"
            borderColor="ruleFaint"
            cursor="pointer"
            bg={name === step ? "paperDeep" : undefined}
            boxShadow={name === step ? "inset 0 -3px {colors.verdigris}" : undefined}
            _hover={{ bg: "paperDeep" }}
          >
            <Text fontWeight="600" whiteSpace="nowrap">
              <Text as="span" color={steps[name].done ? "verdigris" : "inkSoft"} mr="6px">
                {index + 1}
              </Text>
              {STEP_NAMES[name]}
            </Text>
            <Text
              fontSize="11.5px"
              color="inkSoft"
              whiteSpace="nowrap"
              display={{ base: "none", xl: "block" }}
            >
              {steps[name].summary}
            </Text>
          </StepButton>
        ))}
      </Flex>
      <Flex flex="1" align="center" justify="flex-end" gap="6px" px="10px" flexShrink={0}>
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
              {...segment(showing === name)}
            >
              {label}
            </StepButton>
          ))}
          <CompareMenu showing={showing} onShowing={onShowing} />
        </Flex>
        <BarButton label="Find" title="Find anything, by what you call it (/)" onClick={onFind}>
          ⌕
        </BarButton>
        <SchemeButton />
        <BarButton label="Keys" title="Keys (?)" onClick={onKeys}>
          ?
        </BarButton>
      </Flex>
    </PageHeader>
  );
});

const segment = (taken: boolean) => ({
  height: "28px",
  px: { base: "6px", xl: "8px" },
  cursor: "pointer",
  whiteSpace: "nowrap" as const,
  bg: taken ? "ink" : "sheet",
  color: taken ? "paper" : "ink",
});

/** As shot and finished together, in one of three ways. */
function CompareMenu({ showing, onShowing }: Pick<Props, "showing" | "onShowing">) {
  const taken = COMPARED.find(([name]) => name === showing);
  return (
    <Menu.Root lazyMount positioning={{ placement: "bottom-end" }}>
      <Menu.Trigger asChild>
        <StepButton
          aria-pressed={taken !== undefined}
          title="As shot against finished: beside, divided, over each other"
          {...segment(taken !== undefined)}
        >
          {taken?.[1] ?? "Compare"} ▾
        </StepButton>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="sheet" color="ink">
            {COMPARED.map(([name, label, title]) => (
              <Menu.Item key={name} value={name} title={title} onClick={() => onShowing(name)}>
                {label}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}

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
        minWidth="30px"
        px="0"
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
