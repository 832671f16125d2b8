/* A field that is entered with Enter or by leaving it; what is wrong with it is said below. */
import { Box, Input, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";

interface TypedProps {
  label: string;
  value: string;
  /** Enters the text; what is wrong with it comes back. */
  onEnter: (text: string) => Promise<string | undefined>;
  placeholder?: string;
  longest?: number;
  mono?: boolean;
}

export function Typed({ label, value, onEnter, placeholder, longest, mono = true }: TypedProps) {
  const [text, setText] = useState<string>();
  const [wrong, setWrong] = useState<string>();
  const dropped = useRef(false);
  const enter = async () => {
    if (dropped.current || text === undefined || text === value) return setText(undefined);
    const problem = await onEnter(text);
    setWrong(problem);
    if (!problem) setText((now) => (now === text ? undefined : now));
  };
  return (
    <Box flex="1" minWidth="0">
      <Input
        aria-label={label}
        placeholder={placeholder}
        maxLength={longest}
        size="2xs"
        height="23px"
        px="6px"
        fontSize="11.5px"
        fontFamily={mono ? "mono" : "body"}
        bg="sheet"
        borderColor={wrong ? "brick" : "rule"}
        autoComplete="off"
        value={text ?? value}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => void enter()}
        onKeyDown={(event) => {
          if (event.key === "Enter") void enter();
          if (event.key !== "Escape") return;
          setText(undefined);
          setWrong(undefined);
          dropped.current = true; // leaving the field must not enter what was dropped
          event.currentTarget.blur();
          dropped.current = false;
        }}
      />
      {wrong && (
        <Text role="alert" color="brick" fontSize="11.5px">
          {wrong}
        </Text>
      )}
    </Box>
  );
}
