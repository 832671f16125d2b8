/* A slider over a number of the recipe: the picture follows at once, the number is kept when it
   rests. */
import { Box, Slider } from "@chakra-ui/react";
import { useState } from "react";
import type { Edit } from "../api/client";
import { usePutBack } from "../shared/usePutBack";
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
  /** Where a double click puts it back to. */
  home?: number;
  /** A value to mark on the track. */
  mark?: number;
  /** The edit that sets the number. */
  edit: (value: number) => Edit;
}

export function EditSlider({
  bench: { acts, atRest, saving },
  label,
  value,
  min,
  max,
  step = 1,
  centred,
  width,
  home,
  mark,
  edit,
}: Props) {
  // What the hand has set, until the server has kept all of it.
  const [set, setSet] = useState<number>();
  if (set !== undefined && atRest && !saving) setSet(undefined);
  const putBack = usePutBack(() => {
    if (home === undefined) return;
    setSet(home);
    acts.recordSoon(edit(home));
  });
  return (
    <Slider.Root
      width={width}
      size="sm"
      min={min}
      max={max}
      step={step}
      origin={centred ? "center" : "start"}
      value={[set ?? value]}
      // A slider of Chakra's has a label for each of its thumbs.
      // eslint-disable-next-line jsx-a11y/aria-proptypes
      aria-label={[label]}
      {...putBack}
      onValueChange={({ value: [now] }) => {
        if (now === undefined) return;
        setSet(now);
        acts.recordSoon(edit(now));
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
