/* Small pieces that the panels are made of: a part with a heading, a quiet button, a native choice.
 */
import { Box, Button, NativeSelect, Text, type BoxProps, type ButtonProps } from "@chakra-ui/react";
import type { Option } from "../api/client";

export function Part({
  title,
  first,
  children,
  ...rest
}: { title: string; first?: boolean } & BoxProps) {
  return (
    <Box
      as="section"
      aria-label={title}
      mt={first ? undefined : "16px"}
      pt={first ? undefined : "12px"}
      borderTopWidth={first ? undefined : "1px"}
      borderColor="rule"
      {...rest}
    >
      <Text as="h2" fontSize="12px" fontWeight="600" color="inkSoft" mb="8px">
        {title}
      </Text>
      {children}
    </Box>
  );
}

export function QuietButton(props: ButtonProps) {
  return (
    <Button
      size="xs"
      height="28px"
      px="10px"
      variant="outline"
      fontWeight="500"
      borderColor="rule"
      bg="sheet"
      color="ink"
      {...props}
    />
  );
}

/** A button that stays down: for a tool that is in the hand, or one choice of several. */
export function HeldButton({ held, ...rest }: { held: boolean } & ButtonProps) {
  return (
    <QuietButton
      aria-pressed={held}
      {...(held ? { borderColor: "verdigris", bg: "highlight", color: "verdigris" } : {})}
      {...rest}
    />
  );
}

interface ChoiceProps<Value extends string> {
  label: string;
  value: Value;
  options: readonly Pick<Option, "value" | "label">[];
  onChoose: (value: Value) => void;
  width?: string;
}

export function Choice<Value extends string>({
  label,
  value,
  options,
  onChoose,
  width,
}: ChoiceProps<Value>) {
  return (
    <NativeSelect.Root size="xs" width={width} flexShrink={width ? 0 : undefined}>
      <NativeSelect.Field
        height="28px"
        aria-label={label}
        fontSize="13px"
        bg="sheet"
        borderColor="rule"
        value={value}
        onChange={(event) => onChoose(event.target.value as Value)}
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.label}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}
