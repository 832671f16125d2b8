/* How much of what was measured is taken out: of lean and swing, and of roll. */
import { Button, Flex, Popover, Portal, Text } from "@chakra-ui/react";
import { useOptions } from "../../api/options";
import { QuietButton } from "../../shared/Part";
import { EditSlider } from "../EditSlider";
import type { Bench } from "../useBench";

const percent = (share: number): number => Math.round(share * 100);

export function EaseButton({ bench }: { bench: Bench }) {
  const { natural_ease } = useOptions();
  const natural = percent(natural_ease);
  const { perspective, roll } = bench.recipe.ease;
  const share = percent(perspective);
  const whole = share === 100 && percent(roll) === 100;
  return (
    <Popover.Root positioning={{ placement: "top-end" }} lazyMount>
      <Popover.Trigger asChild>
        <QuietButton
          title="How much of the measured stance is taken out"
          borderColor={whole ? "rule" : "verdigris"}
          color={whole ? "ink" : "verdigris"}
        >
          Ease {share} %{percent(roll) < 100 && `, roll ${percent(roll)} %`}
        </QuietButton>
      </Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content width="292px" bg="sheet" borderWidth="1px" borderColor="rule">
            <Popover.Body p="14px" fontSize="13px">
              <Ease bench={bench} part="perspective" name="Lean and swing" mark={natural} />
              <Ease bench={bench} part="roll" name="Roll" />
              <Flex gap="8px" align="start" mt="8px">
                <Button
                  size="2xs"
                  height="24px"
                  px="8px"
                  variant="outline"
                  borderColor={share === natural ? "verdigris" : "rule"}
                  color={share === natural ? "verdigris" : "ink"}
                  aria-pressed={share === natural}
                  onClick={() => {
                    const wanted = share === natural ? 1 : natural_ease;
                    void bench.acts.record({ do: "set_ease", part: "perspective", share: wanted });
                  }}
                >
                  natural
                </Button>
                <Text color="inkSoft" fontSize="12px">
                  takes out {natural} %: a tall thing that is perfectly plumb seems to widen at its
                  top.
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
  part: "roll" | "perspective";
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
        label={part === "roll" ? "Ease of roll" : "Ease of lean and swing"}
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
