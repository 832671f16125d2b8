/* A slider over a number of the recipe: the picture follows at once, the number is kept when it
   rests. */
import { Box, Slider } from "@chakra-ui/react";
import { useState } from "react";
import type { Edit } from "../api/client";
import type { Bench } from "./useBench";

interface Props {
  bench: Bench;
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  centred?: boolean;
  width?: string;
  /** A value to mark on the track. */
  mark?: number;
  /** The edit that sets the number. */
  edit: (value: number) => Edit;
}

export function EditSlider({
  bench: { acts, state },
  label,
  value,
  min,
  max,
  step = 1,
  centred,
  width,
  mark,
  edit,
}: Props) {
  const entry = state.entry_id;
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
        acts.keepSoon(edit(now));
      }}
    >
      <Slider.Control>
        <Slider.Track bg="paperDeep" height="6px">
          <Slider.Range bg="verdigris" />
        </Slider.Track>
        {mark !== undefined && (
          <Box
            position="absolute"
            left={`${((mark - min) / (max - min)) * 100}%`}
            top="50%"
            width="2px"
            height="16px"
            mt="-8px"
            ml="-1px"
            bg="ink"
            pointerEvents="none"
          />
        )}
        <Slider.Thumb index={0} borderColor="verdigris" />
      </Slider.Control>
    </Slider.Root>
  );
}
