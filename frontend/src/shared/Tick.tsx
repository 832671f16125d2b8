/* A box to tick, with its words. */
import { Checkbox } from "@chakra-ui/react";

interface TickProps {
  words: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}

export function Tick({ words, checked, onChange }: TickProps) {
  return (
    <Checkbox.Root
      size="sm"
      checked={checked}
      onCheckedChange={(change) => onChange(change.checked === true)}
    >
      <Checkbox.HiddenInput />
      <Checkbox.Control
        borderColor="rule"
        _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
      />
      <Checkbox.Label fontWeight="400" fontSize="13px">
        {words}
      </Checkbox.Label>
    </Checkbox.Root>
  );
}
