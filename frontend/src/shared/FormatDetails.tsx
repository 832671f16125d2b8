/* What one format alone has to be asked, and what is done to the pixels on the way to it. */
import { Button, Collapsible } from "@chakra-ui/react";
import { Tick } from "./Tick";
import { t } from "./words";
import type { ExportOptions } from "../api/client";
import { useFileOptions } from "../api/options";
import { Choice } from "./Part";
import { QuietSlider } from "./QuietSlider";

interface Props {
  options: ExportOptions;
  /** Whether there are originals of inks among those that are exported. */
  inks: boolean;
  onChange: (part: Partial<ExportOptions>) => void;
}

export function FormatDetails({ options, inks, onChange }: Props) {
  const { chromas, packings, sharpen, start } = useFileOptions();
  const said = [
    options.sharpen ? t("sharpened {sharpen} %", { sharpen: options.sharpen }) : "",
    options.progressive ? t("progressive") : "",
    inks && options.inks && options.format === "tiff" ? t("inks stay") : "",
    options.linear === start.linear ? "" : t("numbers mixed"),
  ].filter(Boolean);
  return (
    <Collapsible.Root>
      <Collapsible.Trigger asChild>
        <Button
          size="2xs"
          variant="plain"
          px="0"
          color="verdigris"
          fontWeight="600"
          justifyContent="flex-start"
        >
          {t("More about the file")}
          {said.length ? `: ${said.join(", ")}` : ""}
        </Button>
      </Collapsible.Trigger>
      <Collapsible.Content display="flex" flexDirection="column" gap="8px" pt="6px">
        {options.format === "jpeg" && (
          <>
            <Choice
              label={t("Colour resolution")}
              value={options.chroma}
              options={chromas.map(({ value, label }) => ({
                value,
                label: t("Colour: {label}", { label }),
              }))}
              onChoose={(chroma) => onChange({ chroma: chroma as ExportOptions["chroma"] })}
            />
            <Tick
              words={t("Progressive: coarse first")}
              checked={options.progressive}
              onChange={(progressive) => onChange({ progressive })}
            />
          </>
        )}
        {options.format === "tiff" && (
          <Choice
            label={t("Packing")}
            value={options.packing}
            options={packings.map(({ value, label }) => ({
              value,
              label: t("Packing: {label}", { label }),
            }))}
            onChoose={(packing) => onChange({ packing: packing as ExportOptions["packing"] })}
          />
        )}
        {options.format === "tiff" && inks && (
          <Tick
            words={t("Inks (CMYK) stay inks")}
            checked={options.inks}
            onChange={(stay) => onChange({ inks: stay })}
          />
        )}
        {options.size.kind !== "full" && (
          <Tick
            words={t("Smaller: mix light, not numbers")}
            checked={options.linear}
            onChange={(linear) => onChange({ linear })}
          />
        )}
        <QuietSlider
          label={t("Sharpen")}
          min={sharpen.low}
          max={sharpen.high}
          value={options.sharpen}
          words={options.sharpen ? `${options.sharpen} %` : t("off")}
          onSlide={(value) => onChange({ sharpen: value })}
        />
      </Collapsible.Content>
    </Collapsible.Root>
  );
}
