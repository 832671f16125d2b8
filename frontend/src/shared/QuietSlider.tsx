/* A slider over a number of the screen, with its name and its value above it. */
import { Flex, Slider, Text, type SliderRootProps } from "@chakra-ui/react";

interface Props extends Omit<SliderRootProps, "value" | "onValueChange"> {
  label: string;
  /** What is read out; the label when it is not given. */
  name?: string;
  value: number;
  words: string;
  onSlide: (value: number) => void;
}

export function QuietSlider({ label, name = label, value, words, onSlide, ...rest }: Props) {
  return (
    <Slider.Root
      size="sm"
      value={[value]}
      onValueChange={({ value: [now] }) => now !== undefined && onSlide(now)}
      // A slider of Chakra's has a label for each of its thumbs.
      // eslint-disable-next-line jsx-a11y/aria-proptypes
      aria-label={[name]}
      {...rest}
    >
      <Flex justify="space-between">
        <Slider.Label fontWeight="400" fontSize="13px">
          {label}
        </Slider.Label>
        <Text fontFamily="mono" fontSize="13px">
          {words}
        </Text>
      </Flex>
      <Slider.Control>
        <Slider.Track bg="paperDeep">
          <Slider.Range bg="verdigris" />
        </Slider.Track>
        <Slider.Thumbs borderColor="verdigris" />
      </Slider.Control>
    </Slider.Root>
  );
}
