/* Whether a copy of the file goes into a folder beside the original, and how that is named. */
import { Flex, Input } from "@chakra-ui/react";
import { t } from "./words";
import type { ExportOptions } from "../api/client";
import { useFileOptions } from "../api/options";
import { Tick } from "./Tick";

interface Props {
  options: ExportOptions;
  onChange: (options: ExportOptions) => void;
}

export function BesidePart({ options, onChange }: Props) {
  const { beside: usual } = useFileOptions();
  return (
    <Flex align="center" gap="8px" mt="8px" wrap="wrap">
      <Tick
        words={t("Also into a folder beside the original")}
        checked={options.beside !== ""}
        onChange={(wanted) => onChange({ ...options, beside: wanted ? usual : "" })}
      />
      {options.beside !== "" && (
        <Input
          size="xs"
          height="28px"
          flex="1 1 120px"
          bg="sheet"
          borderColor="rule"
          fontFamily="mono"
          fontSize="12px"
          aria-label={t("Folder beside the original")}
          autoComplete="off"
          maxLength={60}
          value={options.beside}
          onChange={(event) => onChange({ ...options, beside: event.target.value })}
        />
      )}
    </Flex>
  );
}
