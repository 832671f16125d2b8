/* One of several, each in a line of its own. */
import { Flex, RadioGroup } from "@chakra-ui/react";
import type { Option } from "../api/client";

interface Props<Value extends string> {
  label: string;
  value: Value;
  options: readonly Option[];
  onChoose: (value: Value) => void;
}

export function Choices<Value extends string>({ label, value, options, onChoose }: Props<Value>) {
  return (
    <RadioGroup.Root
      value={value}
      onValueChange={({ value: chosen }) => chosen && onChoose(chosen as Value)}
      aria-label={label}
      size="sm"
    >
      <Flex direction="column" gap="8px">
        {options.map((option) => (
          <RadioGroup.Item key={option.value} value={option.value}>
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemIndicator
              borderColor="rule"
              _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
            />
            <RadioGroup.ItemText fontWeight="400" fontSize="13px">
              {option.label}
            </RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
      </Flex>
    </RadioGroup.Root>
  );
}
