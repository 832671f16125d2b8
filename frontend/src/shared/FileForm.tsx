/* How a file is written: format, quality, size, depth, profile, metadata, name. For one picture and
   for several. */
import { Box, Checkbox, Flex, Input, Text } from "@chakra-ui/react";
import type { ExportOptions, OutputSize } from "../api/client";
import { useFileOptions } from "../api/options";
import { NumberField } from "./NumberField";
import { Choice } from "./Part";
import { QuietSlider } from "./QuietSlider";

interface Props {
  options: ExportOptions;
  onChange: (options: ExportOptions) => void;
  /** Exact pixels make sense for one picture only, a print size only where one is set. */
  sizes: OutputSize["kind"][];
  /** Whether the original has 16 bits. */
  deep: boolean;
}

export function FileForm({ options, onChange, sizes, deep }: Props) {
  const choices = useFileOptions();
  const change = (part: Partial<ExportOptions>) => onChange({ ...options, ...part });
  const resize = (part: Partial<OutputSize>) => change({ size: { ...options.size, ...part } });
  const format = choices.formats.find(({ value }) => value === options.format);
  const parts = choices.name_parts.map((part) => `{${part}}`).join(" ");
  return (
    <Flex direction="column" gap="8px">
      <Choice
        label="Format"
        value={options.format}
        options={choices.formats.map(({ value, label, deep: can }) => ({
          value,
          label: can && deep && options.bits !== 8 ? `${label}, 16 bit` : label,
        }))}
        onChoose={(value) => change({ format: value })}
      />
      {format?.lossy ? (
        <QuietSlider
          label="Quality"
          min={choices.quality.low}
          max={choices.quality.high}
          value={options.quality}
          words={String(options.quality)}
          onSlide={(quality) => change({ quality })}
        />
      ) : (
        <Choice
          label="Depth"
          value={String(options.bits ?? "own")}
          options={[
            { value: "own", label: `Depth as in the original${deep ? ", 16 bit" : ", 8 bit"}` },
            ...choices.bits.map((bits) => ({ value: String(bits), label: `${bits} bit` })),
          ]}
          onChoose={(bits) =>
            change({ bits: bits === "own" ? null : (Number(bits) as ExportOptions["bits"]) })
          }
        />
      )}
      <Choice
        label="Size"
        value={options.size.kind}
        options={choices.sizes.filter(({ value }) => sizes.some((size) => size === value))}
        onChoose={(kind) => resize({ kind, enlarge: false })}
      />
      <SizeFields size={options.size} onResize={resize} />
      <Choice
        label="Colour profile"
        value={options.srgb ? "srgb" : "own"}
        options={[
          { value: "own", label: "Keep the colour profile" },
          { value: "srgb", label: "Convert to sRGB" },
        ]}
        onChoose={(profile) => change({ srgb: profile === "srgb" })}
      />
      <Choice
        label="Metadata"
        value={options.metadata}
        options={choices.metadata}
        onChoose={(metadata) => change({ metadata })}
      />
      <Box>
        <Input
          size="xs"
          height="28px"
          bg="sheet"
          borderColor="rule"
          fontFamily="mono"
          fontSize="12px"
          aria-label="Pattern of the file name"
          title={parts}
          autoComplete="off"
          value={options.pattern}
          onChange={(event) => change({ pattern: event.target.value })}
        />
        <Text color="inkSoft" fontSize="11px" fontFamily="mono" mt="3px">
          {parts}
        </Text>
      </Box>
    </Flex>
  );
}

function SizeFields({
  size,
  onResize,
}: {
  size: OutputSize;
  onResize: (part: Partial<OutputSize>) => void;
}) {
  const { side } = useFileOptions();
  const field = (name: "pixels" | "width" | "height", label: string) => (
    <NumberField
      label={label}
      what="A side"
      unit="px"
      value={size[name] ?? null}
      range={side}
      width="76px"
      live
      onEnter={(value) => onResize({ [name]: value })}
    />
  );
  if (size.kind === "long_edge")
    return (
      <Flex align="start" gap="6px" lineHeight="28px">
        {field("pixels", "Pixels of the longer side")}
        <Text>px</Text>
      </Flex>
    );
  if (size.kind === "pixels")
    return (
      <Flex align="start" gap="6px" lineHeight="28px">
        {field("width", "Width in pixels")}
        <Text>×</Text>
        {field("height", "Height in pixels")}
        <Text>px</Text>
      </Flex>
    );
  return null;
}

interface EnlargeProps {
  words: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}

export function EnlargeBox({ words, checked, onChange }: EnlargeProps) {
  return (
    <Checkbox.Root
      size="sm"
      mt="6px"
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

/** Whether all numbers that a size needs are there. */
export const complete = ({ size }: ExportOptions): boolean =>
  size.kind === "long_edge"
    ? Boolean(size.pixels)
    : size.kind !== "pixels" || Boolean(size.width && size.height);
