/* From which picture, and which of its parts. */
import { Box, Checkbox, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { t } from "../shared/words";
import { client, taken, type CarryPart, type PictureSummary } from "../api/client";
import { useRoom } from "../shared/useWindow";
import { Choice } from "../shared/Part";

interface Props {
  source: PictureSummary;
  pictures: PictureSummary[];
  onSource: (id: number) => void;
  parts: CarryPart[];
  onParts: (parts: CarryPart[]) => void;
  files: boolean;
  onFiles: (files: boolean) => void;
}

export function WhatIsCarried({
  source,
  pictures,
  onSource,
  parts,
  onParts,
  files,
  onFiles,
}: Props) {
  const options = useQuery({
    queryKey: ["carry-options"],
    staleTime: Infinity,
    queryFn: () => taken(client.GET("/api/carry-options")),
  });
  const { upright } = useRoom();
  const toggle = (part: CarryPart, on: boolean) =>
    onParts(on ? [...parts, part] : parts.filter((other) => other !== part));
  return (
    <Box
      as="aside"
      aria-label={t("What is carried over")}
      width={upright ? "100%" : "book"}
      maxHeight={upright ? "40%" : undefined}
      flexShrink={0}
      p="16px"
      borderRightWidth="1px"
      borderColor="rule"
      overflowY="auto"
    >
      <Text fontSize="12px" fontWeight="600" color="inkSoft" mb="6px">
        {t("From")}
      </Text>
      <Choice
        label={t("The picture it comes from")}
        value={String(source.id)}
        options={pictures.map(({ id, name, version_name: version }) => ({
          value: String(id),
          label: version ? `${name}, ${version}` : name,
        }))}
        onChoose={(id) => onSource(Number(id))}
      />
      <Text color="inkSoft" mt="6px">
        {[source.turn_words, source.perspective_words].filter(Boolean).join(", ")}
      </Text>
      <Text fontSize="12px" fontWeight="600" color="inkSoft" mt="18px" mb="6px">
        {t("What")}
      </Text>
      {options.data?.parts.map(({ value, label, about }) => (
        <Tick
          key={value}
          label={label}
          about={about}
          checked={parts.includes(value)}
          onChange={(on) => toggle(value, on)}
        />
      ))}
      <Tick
        label={t("File choices")}
        about={t("format, size and name, as it was exported last")}
        checked={files}
        onChange={onFiles}
      />
    </Box>
  );
}

interface TickProps {
  label: string;
  about: string;
  checked: boolean;
  onChange: (on: boolean) => void;
}

function Tick({ label, about, checked, onChange }: TickProps) {
  return (
    <Checkbox.Root
      size="sm"
      display="flex"
      alignItems="flex-start"
      mb="9px"
      checked={checked}
      onCheckedChange={(change) => onChange(change.checked === true)}
    >
      <Checkbox.HiddenInput aria-label={label} />
      <Checkbox.Control
        mt="2px"
        borderColor="rule"
        _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
      />
      <Box>
        <Text fontWeight="500">{label}</Text>
        <Text color="inkSoft" fontSize="12px" fontWeight="400">
          {about}
        </Text>
      </Box>
    </Checkbox.Root>
  );
}
