/* How a file is written: format, quality, size, depth, profile, metadata, name. For one picture and
   for several. */
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { t } from "./words";
import type { ExportOptions, FormatDepth, OutputSize } from "../api/client";
import { useFileOptions } from "../api/options";
import { FormatDetails } from "./FormatDetails";
import { NumberField } from "./NumberField";
import { Choice } from "./Part";
import { QuietSlider } from "./QuietSlider";

interface Props {
  options: ExportOptions;
  onChange: (options: ExportOptions) => void;
  /** Exact pixels make sense for one picture only, a print size only where one is set. */
  sizes: OutputSize["kind"][];
  /** Bits per channel of the original: 8, 16, or 32 of floating-point numbers. */
  bits: number;
  /** Whether there are originals of inks (CMYK) among those that are exported. */
  inks: boolean;
}

export function FileForm({ options, onChange, sizes, bits, inks }: Props) {
  const choices = useFileOptions();
  const change = (part: Partial<ExportOptions>) => onChange({ ...options, ...part });
  const resize = (part: Partial<OutputSize>) => change({ size: { ...options.size, ...part } });
  const format = choices.formats.find(({ value }) => value === options.format);
  const stayInks = inks && options.inks && options.format === "tiff";
  const depth = format && !stayInks && depthOf(format.depths, bits);
  const parts = choices.name_parts.map((part) => `{${part}}`).join(" ");
  return (
    <Flex direction="column" gap="8px">
      <Choice
        label={t("Format")}
        value={options.format}
        options={choices.formats.map(({ value, label, depths }) => ({
          value,
          label: t("{label}, {own} bit", {
            label,
            own: depthOf(depths, options.bits ?? bits)?.own,
          }),
        }))}
        onChoose={(value) => change({ format: value })}
      />
      {format?.lossy ? (
        <QuietSlider
          label={t("Quality")}
          min={choices.quality.low}
          max={choices.quality.high}
          value={options.quality}
          words={String(options.quality)}
          onSlide={(quality) => change({ quality })}
        />
      ) : null}
      {depth && depth.choices.length > 1 && (
        <Choice
          label={t("Depth")}
          value={String(options.bits ?? "own")}
          options={[
            {
              value: "own",
              label: t("Depth as in the original, {own} bit", { own: depth.own }),
            },
            ...depth.choices.map((each) => ({
              value: String(each),
              label: t("{each} bit", { each }),
            })),
          ]}
          onChoose={(chosen) =>
            change({ bits: chosen === "own" ? null : (Number(chosen) as ExportOptions["bits"]) })
          }
        />
      )}
      <Choice
        label={t("Size")}
        value={options.size.kind}
        options={choices.sizes.filter(({ value }) => sizes.some((size) => size === value))}
        onChoose={(kind) => resize({ kind, enlarge: false })}
      />
      <SizeFields size={options.size} onResize={resize} />
      <Choice
        label={t("Colour profile")}
        value={options.srgb ? "srgb" : "own"}
        options={[
          { value: "own", label: t("Keep the colour profile") },
          { value: "srgb", label: t("Convert to sRGB") },
        ]}
        onChoose={(profile) => change({ srgb: profile === "srgb" })}
      />
      <Choice
        label={t("Metadata")}
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
          aria-label={t("Pattern of the file name")}
          title={parts}
          autoComplete="off"
          value={options.pattern}
          onChange={(event) => change({ pattern: event.target.value })}
        />
        <Text color="inkSoft" fontSize="11px" fontFamily="mono" mt="3px">
          {parts}
        </Text>
      </Box>
      <FormatDetails options={options} inks={inks} onChange={change} />
    </Flex>
  );
}

/** What a format does with pixels of so many bits. */
function depthOf(depths: FormatDepth[], bits: number): FormatDepth | undefined {
  return depths.find((each) => each.bits === bits);
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
      what={t("A side")}
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
        {field("pixels", t("Pixels of the longer side"))}
        <Text>{t("px")}</Text>
      </Flex>
    );
  if (size.kind === "pixels")
    return (
      <Flex align="start" gap="6px" lineHeight="28px">
        {field("width", t("Width in pixels"))}
        <Text>×</Text>
        {field("height", t("Height in pixels"))}
        <Text>{t("px")}</Text>
      </Flex>
    );
  return null;
}

/** Whether all numbers that a size needs are there. */
export const complete = ({ size }: ExportOptions): boolean =>
  size.kind === "long_edge"
    ? Boolean(size.pixels)
    : size.kind !== "pixels" || Boolean(size.width && size.height);
