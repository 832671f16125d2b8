/* The strip under the stage: one long vial for the axis in hand, the others as figures that are
   taken by a click, the angle as shot to type into, and how much of all is taken out. */
import { Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useOptions } from "../../api/options";
import type { Axis } from "../../api/client";
import { withoutLook, type Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { AngleField } from "./AngleField";
import { EaseButton } from "./EaseButton";
import { HoldButton } from "./HoldButton";
import { Vial } from "./Vial";

const AxisButton = chakra("button");

export function Strip({ bench, desk }: { bench: Bench; desk: Desk }) {
  const { axes } = useOptions();
  const [axis, setAxis] = useState<Axis>("roll");
  const solved = bench.solution.stance[axis];
  const { acts } = bench;
  return (
    <Flex
      as="footer"
      direction="column"
      height="strip"
      flexShrink={0}
      borderTopWidth="1px"
      borderColor="rule"
      bg="sheet"
      px="12px"
      pt="6px"
      gap="4px"
    >
      <Flex align="center" gap="6px" height="28px" whiteSpace="nowrap">
        <Flex gap="4px" role="group" aria-label="Axis of the vial">
          {axes.map(({ axis: one, name }) => (
            <AxisButton
              key={one}
              aria-pressed={one === axis}
              onClick={() => setAxis(one)}
              title={bench.report[one].sigma || undefined}
              height="28px"
              px="8px"
              borderWidth="1px"
              borderRadius="4px"
              cursor="pointer"
              borderColor={one === axis ? "verdigris" : "rule"}
              bg={one === axis ? "highlight" : "sheet"}
            >
              {name}{" "}
              <Text
                as="span"
                fontFamily="mono"
                fontSize="12px"
                aria-live={one === axis ? "polite" : undefined}
              >
                {(one === axis && bench.report[one].applied) ||
                  `${Math.abs(bench.solution.stance[one].applied_deg).toFixed(2)}°`}
              </Text>
            </AxisButton>
          ))}
        </Flex>
        <HoldButton acts={acts} axis={axis} held={solved.held} />
        {solved.trimmed && (
          <Button
            size="2xs"
            height="22px"
            variant="plain"
            px="4px"
            color="verdigris"
            fontWeight="600"
            title={
              bench.recipe.readings.length
                ? "What was turned by hand goes; what the readings say stays"
                : "The picture as it was shot"
            }
            onClick={() => void acts.record({ do: "reset_trim", axis })}
          >
            {bench.recipe.readings.length ? "Back to the readings" : "Back to as shot"}
          </Button>
        )}
        <Flex flex="1" />
        <EaseButton bench={withoutLook(bench)} />
        <Text as="span" color="inkSoft" display={{ base: "none", xl: "inline" }}>
          {axis === "roll" ? "tilt as shot" : "camera pointed"}
        </Text>
        <AngleField bench={bench} axis={axis} onSay={desk.say} />
      </Flex>
      <Vial key={axis} bench={bench} axis={axis} onTurning={desk.setTurning} />
    </Flex>
  );
}
