/* A slider over a number of the recipe: the picture follows at once, the number is entered when it rests. */
import { Box, Slider } from "@chakra-ui/react";
import { useState } from "react";
import type { Recipe } from "../api/client";
import type { Acts } from "./useBench";

interface Props {
  acts: Acts;
  /** The entry of the ledger that holds. */
  entry: number;
  label: string;
  what: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  centred?: boolean;
  width?: string;
  /** A value to mark on the track. */
  mark?: number;
  change: (recipe: Recipe, value: number) => Recipe;
}

export function RecipeSlider({ acts, entry, label, what, value, min, max, step = 1, centred, width, mark, change }: Props) {
  // What the hand has set, until an entry of the ledger holds it.
  const [set, setSet] = useState<{ value: number; entry: number }>();
  return (
    <Slider.Root
      width={width}
      size="sm"
      min={min}
      max={max}
      step={step}
      origin={centred ? "center" : "start"}
      value={[set?.entry === entry ? set.value : value]}
      aria-label={[label]}
      onValueChange={({ value: [now] }) => {
        if (now === undefined) return;
        setSet({ value: now, entry });
        acts.commitSoon(change(acts.latest(), now), what);
      }}
    >
      <Slider.Control>
        <Slider.Track bg="paperDeep" height="6px">
          <Slider.Range bg="verdigris" />
        </Slider.Track>
        {mark !== undefined && <Box position="absolute" left={`${((mark - min) / (max - min)) * 100}%`} top="50%" width="2px" height="16px" mt="-8px" ml="-1px" bg="ink" pointerEvents="none" />}
        <Slider.Thumb index={0} borderColor="verdigris" />
      </Slider.Control>
    </Slider.Root>
  );
}
