/* The axes of the camera with how far each is turned; one of them has the vial. */
import { chakra, Flex, Text } from "@chakra-ui/react";
import { decimal, t } from "../../shared/words";
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
    <Flex gap="4px" role="group" aria-label={t("Axis of the vial")}>
      {axes.map(({ axis: one, name }) => (
        <OneAxis
          key={one}
          name={name}
          held={one === axis}
          sure={bench.report[one].sigma}
          figure={
            (!brief && one === axis && bench.report[one].applied) ||
            `${decimal(Math.abs(bench.solution.stance[one].applied_deg), 2)}°`
          }
          brief={brief}
          onTake={() => onAxis(one)}
        />
      ))}
    </Flex>
  );
}

interface OneProps {
  name: string;
  held: boolean;
  sure: string;
  figure: string;
  brief: boolean;
  onTake: () => void;
}

/** One of them: while the picture turns about another axis it is not drawn anew. */
function OneAxis({ name, held, sure, figure, brief, onTake }: OneProps) {
  return (
    <AxisButton
      aria-pressed={held}
      onClick={onTake}
      title={sure || undefined}
      height="28px"
      px="8px"
      flex={brief ? "1 1 auto" : undefined}
      borderWidth="1px"
      borderRadius="4px"
      cursor="pointer"
      whiteSpace="nowrap"
      borderColor={held ? "verdigris" : "rule"}
      bg={held ? "highlight" : "sheet"}
    >
      {name}{" "}
      <Text as="span" fontFamily="mono" fontSize="12px">
        {figure}
      </Text>
    </AxisButton>
  );
}
