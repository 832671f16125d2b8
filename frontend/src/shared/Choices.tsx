/* One of several, each in a line of its own. */
import { Flex, RadioGroup } from "@chakra-ui/react";

export function Choices<Value extends string>({ label, value, options, onChoose }: { label: string; value: Value; options: [Value, string][]; onChoose: (value: Value) => void }) {
  return (
    <RadioGroup.Root value={value} onValueChange={({ value: chosen }) => chosen && onChoose(chosen as Value)} aria-label={label} size="sm">
      <Flex direction="column" gap="8px">
        {options.map(([option, name]) => (
          <RadioGroup.Item key={option} value={option}>
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemIndicator borderColor="rule" _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }} />
            <RadioGroup.ItemText fontWeight="400" fontSize="13px">
              {name}
            </RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
      </Flex>
    </RadioGroup.Root>
  );
}
