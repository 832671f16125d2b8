/* How a file is written: format, quality, size, depth, profile, metadata, name. For one picture and for several. */
import { Box, Checkbox, Flex, Input, Text } from "@chakra-ui/react";
import type { ExportFormat, ExportOptions, OutputSize } from "../api/client";
import { Choice } from "./Part";
import { QuietSlider } from "./QuietSlider";

export const START: ExportOptions = {
  format: "jpeg",
  quality: 95,
  size: { kind: "full", pixels: null, width: null, height: null, enlarge: false },
  bits: null,
  srgb: false,
  metadata: "all",
  pattern: "{name}-levelled",
};
const FORMATS: [ExportFormat, string][] = [
  ["jpeg", "JPEG, 8 bit"],
  ["png", "PNG, lossless"],
  ["tiff", "TIFF, lossless"],
  ["webp", "WebP, 8 bit"],
  ["avif", "AVIF, 8 bit"],
];
const SIZES: [OutputSize["kind"], string][] = [
  ["full", "Full size"],
  ["long_edge", "Longer side in pixels"],
  ["pixels", "Exact pixels"],
  ["print", "Print size"],
];
const METADATA: [ExportOptions["metadata"], string][] = [
  ["all", "Keep all metadata"],
  ["no_place", "All but the place"],
  ["none", "No metadata"],
];
const lossy = (format: ExportFormat) => format === "jpeg" || format === "webp" || format === "avif";

interface Props {
  options: ExportOptions;
  onChange: (options: ExportOptions) => void;
  /** Exact pixels make sense for one picture only, a print size only where one is set. */
  sizes: OutputSize["kind"][];
  deep: boolean;
}

export function FileForm({ options, onChange, sizes, deep }: Props) {
  const change = (part: Partial<ExportOptions>) => onChange({ ...options, ...part });
  const resize = (part: Partial<OutputSize>) => change({ size: { ...options.size, ...part } });
  const { size } = options;
  const number = (name: "pixels" | "width" | "height", label: string) => (
    <Input size="xs" height="28px" width="76px" px="6px" bg="sheet" borderColor="rule" fontFamily="mono" textAlign="right" inputMode="numeric" aria-label={label} autoComplete="off" value={size[name] ?? ""} onChange={(event) => resize({ [name]: Number(event.target.value.replace(/\D/g, "")) || null })} />
  );
  return (
    <Flex direction="column" gap="8px">
      <Choice label="Format" value={options.format} options={FORMATS.map(([value, name]): [ExportFormat, string] => [value, !lossy(value) && deep && options.bits !== 8 ? `${name}, 16 bit` : name])} onChoose={(format) => change({ format })} />
      {lossy(options.format) ? (
        <QuietSlider label="Quality" min={50} max={100} value={options.quality} words={String(options.quality)} onSlide={(quality) => change({ quality })} />
      ) : (
        <Choice
          label="Depth"
          value={String(options.bits ?? "own")}
          options={[
            ["own", `Depth as in the original${deep ? ", 16 bit" : ", 8 bit"}`],
            ["8", "8 bit"],
            ["16", "16 bit"],
          ]}
          onChoose={(bits) => change({ bits: bits === "own" ? null : bits === "8" ? 8 : 16 })}
        />
      )}
      <Choice label="Size" value={size.kind} options={SIZES.filter(([kind]) => sizes.includes(kind))} onChoose={(kind) => resize({ kind, enlarge: false })} />
      {size.kind === "long_edge" && (
        <Flex align="center" gap="6px">
          {number("pixels", "Pixels of the longer side")}
          <Text>px</Text>
        </Flex>
      )}
      {size.kind === "pixels" && (
        <Flex align="center" gap="6px">
          {number("width", "Width in pixels")}
          <Text>×</Text>
          {number("height", "Height in pixels")}
          <Text>px</Text>
        </Flex>
      )}
      <Choice
        label="Colour profile"
        value={options.srgb ? "srgb" : "own"}
        options={[
          ["own", "Keep the colour profile"],
          ["srgb", "Convert to sRGB"],
        ]}
        onChoose={(profile) => change({ srgb: profile === "srgb" })}
      />
      <Choice label="Metadata" value={options.metadata} options={METADATA} onChoose={(metadata) => change({ metadata })} />
      <Box>
        <Input size="xs" height="28px" bg="sheet" borderColor="rule" fontFamily="mono" fontSize="12px" aria-label="Pattern of the file name" title="{name} {set} {number} {width} {height} {date}" autoComplete="off" value={options.pattern} onChange={(event) => change({ pattern: event.target.value })} />
        <Text color="inkSoft" fontSize="11px" fontFamily="mono" mt="3px">
          {"{name} {set} {number} {width} {height} {date}"}
        </Text>
      </Box>
    </Flex>
  );
}

export function EnlargeBox({ words, checked, onChange }: { words: string; checked: boolean; onChange: (checked: boolean) => void }) {
  return (
    <Checkbox.Root size="sm" mt="6px" checked={checked} onCheckedChange={(change) => onChange(change.checked === true)}>
      <Checkbox.HiddenInput />
      <Checkbox.Control borderColor="rule" _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }} />
      <Checkbox.Label fontWeight="400" fontSize="13px">
        {words}
      </Checkbox.Label>
    </Checkbox.Root>
  );
}

export const complete = ({ size }: ExportOptions): boolean => (size.kind === "long_edge" ? Boolean(size.pixels) : size.kind !== "pixels" || Boolean(size.width && size.height));
