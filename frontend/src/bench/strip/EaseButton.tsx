/* How much of what was measured is taken out: of lean and swing, and of roll. */
import { Button, Flex, Popover, Portal, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { useOptions } from "../../api/options";
import { QuietButton } from "../../shared/Part";
import type { Axis } from "../../api/client";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";
import { useLook } from "../useLook";

const percent = (share: number): number => Math.round(share * 100);

export function EaseButton({ bench }: { bench: Bench }) {
  const { natural_ease } = useOptions();
  const natural = percent(natural_ease);
  const { lean, swing, roll } = bench.recipe.ease;
  const look = useLook(bench.acts);
  const [uprights, levels] = [percent(lean), percent(swing)];
  const whole = uprights === 100 && levels === 100 && percent(roll) === 100;
  const isNatural = uprights === natural && levels === natural;
  const wanted = {
    do: "set_ease",
    part: "perspective",
    share: isNatural ? 1 : natural_ease,
  } as const;
  return (
    <Popover.Root positioning={{ placement: "top-end" }} lazyMount>
      <Popover.Trigger asChild>
        <QuietButton
          title={t("How much of the measured stance is taken out")}
          borderColor={whole ? "rule" : "verdigris"}
          color={whole ? "ink" : "verdigris"}
        >
          {t("Ease {share} %", {
            share: levels === uprights ? uprights : `${uprights} / ${levels}`,
          })}
          {percent(roll) < 100 && t(", roll {percent} %", { percent: percent(roll) })}
        </QuietButton>
      </Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content width="292px" bg="sheet" borderWidth="1px" borderColor="rule">
            <Popover.Body p="14px" fontSize="13px">
              <Ease bench={bench} part="lean" name={t("Uprights")} mark={natural} />
              <Ease bench={bench} part="swing" name={t("Levels")} mark={natural} />
              <Ease bench={bench} part="roll" name={t("Roll")} />
              <Flex gap="8px" align="start" mt="8px">
                <Button
                  size="2xs"
                  height="24px"
                  px="8px"
                  variant="outline"
                  borderColor={isNatural ? "verdigris" : "rule"}
                  color={isNatural ? "verdigris" : "ink"}
                  aria-pressed={isNatural}
                  onClick={() => void bench.acts.record(wanted)}
                  {...look(wanted)}
                >
                  {t("natural")}
                </Button>
                <Text color="inkSoft" fontSize="12px">
                  {bench.report.leaving}
                </Text>
              </Flex>
            </Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

interface EaseProps {
  bench: Bench;
  part: Axis;
  name: string;
  mark?: number;
}

function Ease({ bench, part, name, mark }: EaseProps) {
  const share = percent(bench.recipe.ease[part]);
  return (
    <Flex align="center" gap="10px" py="3px">
      <Text width="96px">{name}</Text>
      <EditSlider
        bench={bench}
        label={t("Ease of {part}", { part })}
        home={100}
        value={share}
        min={0}
        max={100}
        width="104px"
        mark={mark}
        edit={(now) => ({ do: "set_ease", part, share: now / 100 })}
      />
      <Text fontFamily="mono" fontSize="12px" width="44px" textAlign="right" whiteSpace="nowrap">
        {share} %
      </Text>
    </Flex>
  );
}
