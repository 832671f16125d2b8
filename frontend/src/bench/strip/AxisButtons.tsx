/* The axes of the camera with how far each is turned; one of them has the vial. */
import { chakra, Flex, Text } from "@chakra-ui/react";
import type { Axis } from "../../api/client";
import { useOptions } from "../../api/options";
import type { Bench } from "../useBench";

const AxisButton = chakra("button");

interface Props {
  bench: Bench;
  axis: Axis;
  onAxis: (axis: Axis) => void;
  /** Figures only. */
  brief: boolean;
}

export function AxisButtons({ bench, axis, onAxis, brief }: Props) {
  const { axes } = useOptions();
  return (
    <Flex gap="4px" role="group" aria-label="Axis of the vial">
      {axes.map(({ axis: one, name }) => (
        <AxisButton
          key={one}
          aria-pressed={one === axis}
          onClick={() => onAxis(one)}
          title={bench.report[one].sigma || undefined}
          height="28px"
          px="8px"
          flex={brief ? "1 1 auto" : undefined}
          borderWidth="1px"
          borderRadius="4px"
          cursor="pointer"
          whiteSpace="nowrap"
          borderColor={one === axis ? "verdigris" : "rule"}
          bg={one === axis ? "highlight" : "sheet"}
        >
          {name}{" "}
          <Text as="span" fontFamily="mono" fontSize="12px">
            {(!brief && one === axis && bench.report[one].applied) ||
              `${Math.abs(bench.solution.stance[one].applied_deg).toFixed(2)}°`}
          </Text>
        </AxisButton>
      ))}
    </Flex>
  );
}
