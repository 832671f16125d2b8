/* Choices of a file under a name: taken, kept, forgotten. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "./words";
import { client, taken, type ExportOptions } from "../api/client";
import { Choice, QuietButton } from "./Part";

interface Props {
  options: ExportOptions;
  onTake: (options: ExportOptions) => void;
}

export function PresetPart({ options, onTake }: Props) {
  const queries = useQueryClient();
  const [name, setName] = useState<string>();
  const list = useQuery({
    queryKey: ["presets"],
    queryFn: () => taken(client.GET("/api/presets")),
  });
  const presets = list.data?.presets ?? [];
  const same = presets.find((one) => JSON.stringify(one.options) === JSON.stringify(options));
  const shown = (after: { presets: typeof presets }) => queries.setQueryData(["presets"], after);
  const keep = useMutation({
    mutationFn: (given: string) =>
      taken(client.POST("/api/presets", { body: { name: given, options } })),
    onSuccess: (after) => {
      shown(after);
      setName(undefined);
    },
  });
  const forget = useMutation({
    mutationFn: (id: number) =>
      taken(client.DELETE("/api/presets/{preset_id}", { params: { path: { preset_id: id } } })),
    onSuccess: shown,
  });
  const problem = keep.error ?? forget.error;
  return (
    <Flex direction="column" gap="6px" mb="8px">
      <Flex gap="6px">
        <Choice
          label={t("Preset")}
          value={same ? String(same.id) : ""}
          options={[
            {
              value: "",
              label: presets.length ? t("No preset") : t("No presets yet: Keep… makes one"),
            },
            ...presets.map((one) => ({ value: String(one.id), label: one.name })),
          ]}
          onChoose={(id) => {
            const found = presets.find((one) => String(one.id) === id);
            if (found) onTake(found.options);
          }}
        />
        {same ? (
          <QuietButton
            title={t("Forget this preset; files stay")}
            onClick={() => forget.mutate(same.id)}
          >
            {t("Forget")}
          </QuietButton>
        ) : (
          <QuietButton
            title={t("Keep these choices under a name")}
            onClick={() => setName((now) => (now === undefined ? "" : undefined))}
          >
            {t("Keep…")}
          </QuietButton>
        )}
      </Flex>
      {name !== undefined && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim()) keep.mutate(name);
          }}
        >
          <Flex gap="6px">
            <Input
              size="xs"
              height="28px"
              autoFocus
              bg="sheet"
              borderColor="rule"
              aria-label={t("Name of the preset")}
              placeholder={t("screen 2048")}
              value={name}
              maxLength={60}
              onChange={(event) => setName(event.target.value)}
            />
            <QuietButton type="submit" disabled={!name.trim() || keep.isPending}>
              {t("Keep")}
            </QuietButton>
          </Flex>
        </form>
      )}
      {problem && (
        <Text role="alert" color="brick">
          {problem.message}
        </Text>
      )}
    </Flex>
  );
}
