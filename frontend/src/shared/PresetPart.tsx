/* Choices under a name: taken, kept, forgotten. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "./words";
import { Choice, QuietButton } from "./Part";

export interface Named<Options> {
  id: number;
  name: string;
  options: Options;
}

/** Where choices of a kind are kept; each act answers with all of them. */
export interface PresetShelf<Options> {
  key: string;
  /** A name that one could have. */
  example: string;
  list: () => Promise<Named<Options>[]>;
  keep: (name: string, options: Options) => Promise<Named<Options>[]>;
  forget: (id: number) => Promise<Named<Options>[]>;
}

interface Props<Options> {
  shelf: PresetShelf<Options>;
  options: Options;
  onTake: (options: Options) => void;
}

export function PresetPart<Options>({ shelf, options, onTake }: Props<Options>) {
  const queries = useQueryClient();
  const [name, setName] = useState<string>();
  const list = useQuery({ queryKey: [shelf.key], queryFn: shelf.list });
  const presets = list.data ?? [];
  const same = presets.find((one) => JSON.stringify(one.options) === JSON.stringify(options));
  const shown = (after: Named<Options>[]) => queries.setQueryData([shelf.key], after);
  const keep = useMutation({
    mutationFn: (given: string) => shelf.keep(given, options),
    onSuccess: (after) => {
      shown(after);
      setName(undefined);
    },
  });
  const forget = useMutation({ mutationFn: shelf.forget, onSuccess: shown });
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
              label: presets.length ? t("No preset") : t("No presets yet"),
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
            title={t("Forget this preset; pictures stay")}
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
              placeholder={shelf.example}
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
