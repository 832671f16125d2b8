/* The strip under the stage: one long vial for the axis in hand, the others as figures that are
   taken by a click, the angle as shot to type into, and how much of all is taken out. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../../shared/words";
import type { Axis } from "../../api/client";
import { useRoom } from "../../shared/useWindow";
import { withoutLook, type Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { AngleField } from "./AngleField";
import { AxisButtons } from "./AxisButtons";
import { EaseButton } from "./EaseButton";
import { HoldButton } from "./HoldButton";
import { Vial } from "./Vial";

export function Strip({ bench, desk }: { bench: Bench; desk: Desk }) {
  const [axis, setAxis] = useState<Axis>("roll");
  const { slim, low } = useRoom();
  const label = axis === "roll" ? t("tilt as shot") : t("camera pointed");
  const axes = <AxisButtons bench={bench} axis={axis} onAxis={setAxis} brief={slim || low} />;
  const vial = <Vial key={axis} bench={bench} axis={axis} onTurning={desk.setTurning} />;
  const field = <AngleField bench={bench} axis={axis} onSay={desk.say} />;
  // As low as a telephone on its side, the vial lies between the figures.
  if (low)
    return (
      <Flex as="footer" {...PAPER} align="center" gap="10px" px="10px" height="48px">
        {axes}
        <Flex direction="column" flex="1" minWidth="0" maxHeight="46px" overflow="hidden">
          {vial}
        </Flex>
        {field}
      </Flex>
    );
  return (
    <Flex
      as="footer"
      {...PAPER}
      direction="column"
      minHeight={slim ? undefined : "strip"}
      px="12px"
      pt="6px"
      pb="2px"
      gap="4px"
    >
      {slim && axes}
      <Flex align="center" wrap="wrap" gap="6px" rowGap="4px" minHeight="28px" whiteSpace="nowrap">
        {!slim && axes}
        <HoldButton acts={bench.acts} axis={axis} held={bench.solution.stance[axis].held} />
        <PutBack bench={bench} axis={axis} />
        <Flex flex="1" />
        <EaseButton bench={withoutLook(bench)} />
        <Text
          as="span"
          color="inkSoft"
          display={{ base: "none", xl: "inline" }}
          minWidth="0"
          truncate
          title={label}
        >
          {label}
        </Text>
        {field}
      </Flex>
      {vial}
    </Flex>
  );
}

const PAPER = {
  flexShrink: 0,
  borderTopWidth: "1px",
  borderColor: "rule",
  bg: "sheet",
} as const;

/** What was turned by hand goes. */
function PutBack({ bench, axis }: { bench: Bench; axis: Axis }) {
  const { slim } = useRoom();
  if (!bench.solution.stance[axis].trimmed) return null;
  const read = bench.recipe.readings.length > 0;
  return (
    <Button
      size="2xs"
      height="22px"
      variant="plain"
      px="4px"
      color="verdigris"
      fontWeight="600"
      title={
        read
          ? t("What was turned by hand goes; what the readings say stays")
          : t("The picture as it was shot")
      }
      onClick={() => void bench.acts.record({ do: "reset_trim", axis })}
    >
      {slim ? t("Back") : read ? t("Back to the readings") : t("Back to as shot")}
    </Button>
  );
}
