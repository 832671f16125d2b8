/* The steps of the job and what they have come to; each is always within reach. */
import { chakra, Flex, Text } from "@chakra-ui/react";
import { t } from "../shared/words";
import { useRoom } from "../shared/useWindow";
import { STEP_NAMES, STEPS, type Step } from "./steps";
import type { Bench } from "./useBench";

const StepButton = chakra("button");

interface Props {
  steps: Bench["report"]["steps"];
  step: Step;
  onStep: (step: Step) => void;
}

export function StepBar({ steps, step, onStep }: Props) {
  const { slim } = useRoom();
  return (
    <Flex as="nav" aria-label={t("Steps")} flexShrink={0} flex={slim ? "1" : undefined}>
      {STEPS.map((name, index) => (
        <StepButton
          key={name}
          aria-current={name === step ? "step" : undefined}
          onClick={() => onStep(name)}
          textAlign={slim ? "center" : "left"}
          flex={slim ? "1 1 auto" : undefined}
          px={{ base: slim ? "4px" : "9px", xl: "12px" }}
          title={`${STEP_NAMES[name]} (${index + 1}): ${steps[name].summary}`}
          borderRightWidth="1px"
          borderColor="ruleFaint"
          cursor="pointer"
          bg={name === step ? "paperDeep" : undefined}
          boxShadow={name === step ? "inset 0 -3px {colors.verdigris}" : undefined}
          _hover={{ bg: "paperDeep" }}
        >
          <Text fontWeight="600" whiteSpace="nowrap">
            <Text
              as="span"
              color={steps[name].done ? "verdigris" : "inkSoft"}
              mr={slim ? "3px" : "6px"}
            >
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
  );
}
