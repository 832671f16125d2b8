/* A number that is typed, or stepped by the arrow keys; it is entered with Enter or by leaving the
   field. */
import { Box, NumberInput, Text } from "@chakra-ui/react";
import { useRef, useState, type InputEvent } from "react";
import { locale, t } from "./words";
import type { Range } from "../api/client";

interface Props {
  label: string;
  value: number | null;
  range: Range;
  /** What the number is, for saying what is wrong: "A weight". */
  what: string;
  unit?: string;
  step?: number;
  places?: number;
  signed?: boolean;
  width: string;
  height?: string;
  /** Entered with every key, as long as it fits. */
  live?: boolean;
  onEnter: (value: number) => void;
}

export function NumberField({
  label,
  value,
  range,
  what,
  unit = "",
  step = 1,
  places = 0,
  signed,
  width,
  height = "28px",
  live,
  onEnter,
}: Props) {
  const shown = value === null ? "" : formatted(value, places, signed);
  const [typed, setTyped] = useState<string>();
  const [wrong, setWrong] = useState(false);
  const dropped = useRef(false);
  const fitting = (value: number) => value >= range.low && value <= range.high;
  // What stands in the field counts: the state may be a moment behind a quick hand.
  const enter = (text: string) => {
    const number = text.trim() ? Number(text) : NaN;
    if (dropped.current || text === shown || number === Number(shown || NaN)) {
      setWrong(false);
      return setTyped(undefined);
    }
    setWrong(!fitting(number));
    if (!fitting(number)) return;
    setTyped(undefined);
    onEnter(number);
  };
  return (
    <Box>
      <NumberInput.Root
        size="xs"
        width={width}
        min={range.low}
        max={range.high}
        step={step}
        clampValueOnBlur={false}
        locale="en"
        formatOptions={{
          useGrouping: false,
          minimumFractionDigits: signed ? places : 0,
          maximumFractionDigits: MOST_PLACES,
          signDisplay: signed ? "exceptZero" : "auto",
        }}
        invalid={wrong}
        value={typed ?? shown}
        onValueChange={(change) => {
          setTyped(change.value === shown ? undefined : change.value);
          if (live && fitting(change.valueAsNumber)) onEnter(change.valueAsNumber);
        }}
      >
        <NumberInput.Input
          aria-label={label}
          height={height}
          px="6px"
          bg="sheet"
          borderColor={wrong ? "brick" : "rule"}
          fontFamily="mono"
          fontSize="12px"
          textAlign="right"
          autoComplete="off"
          onBeforeInput={commaAsPoint}
          onBlur={(event) => enter(event.currentTarget.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") enter(event.currentTarget.value);
            if (event.key !== "Escape") return;
            setTyped(undefined);
            setWrong(false);
            dropped.current = true; // leaving the field must not enter what was dropped
            event.currentTarget.blur();
            dropped.current = false;
          }}
        />
      </NumberInput.Root>
      {wrong && (
        <Text role="alert" color="brick" fontSize="11.5px" lineHeight="1.4" maxWidth="160px">
          {t("{what} lies between {low} and {high}.", {
            what,
            low: plain(range.low),
            high: `${plain(range.high)}${unit && ` ${unit}`}`,
          })}
        </Text>
      )}
    </Box>
  );
}

const MOST_PLACES = 8;
const plain = (value: number) =>
  value.toLocaleString(locale(), { useGrouping: false, maximumFractionDigits: MOST_PLACES });

/** A comma is a decimal point too; the library would drop it, and 0,03 would become 3. */
function commaAsPoint(event: InputEvent<HTMLInputElement>) {
  if (!event.data.includes(",")) return;
  event.preventDefault();
  const field = event.currentTarget;
  const { selectionStart, selectionEnd } = field;
  const typed = event.data.replaceAll(",", ".");
  field.setRangeText(typed, selectionStart ?? 0, selectionEnd ?? field.value.length, "end");
  field.dispatchEvent(new window.InputEvent("input", { bubbles: true }));
}

function formatted(value: number, places: number, signed?: boolean): string {
  const rounded = signed ? value.toFixed(places) : String(Number(value.toFixed(places)));
  return signed && value > 0 ? `+${rounded}` : rounded;
}
