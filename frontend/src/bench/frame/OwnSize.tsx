/* A print size of one's own, for this picture or for the list. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../../shared/words";
import { client, taken, type ListedSize, type PrintSize } from "../../api/client";
import { useOptions } from "../../api/options";
import { Choice, QuietButton } from "../../shared/Part";

interface Props {
  start: PrintSize | null;
  onTake: (size: PrintSize) => void;
  onListed: (size: ListedSize) => void;
}

export function OwnSize({ start, onTake, onListed }: Props) {
  const queries = useQueryClient();
  const { print_units: units, print_start: usual } = useOptions();
  const first = start ?? usual;
  const [typed, setTyped] = useState({
    name: "",
    width: String(first.width),
    height: String(first.height),
    unit: first.unit,
    ppi: String(first.ppi),
  });
  const number = (text: string) => Number(text.replace(",", "."));
  const size: PrintSize = {
    width: number(typed.width),
    height: number(typed.height),
    unit: typed.unit,
    ppi: number(typed.ppi),
  };
  const add = useMutation({
    mutationFn: () =>
      taken(client.POST("/api/print-sizes", { body: { ...size, name: typed.name.trim() } })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["print-sizes"] });
      onListed(made);
    },
  });
  const field = (name: "width" | "height" | "ppi", label: string, width: string) => (
    <Input
      size="xs"
      height="28px"
      width={width}
      px="6px"
      bg="sheet"
      borderColor="rule"
      fontFamily="mono"
      textAlign="right"
      inputMode="decimal"
      aria-label={label}
      autoComplete="off"
      value={typed[name]}
      onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
    />
  );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onTake(size);
      }}
    >
      <Flex mt="8px" gap="5px" align="center">
        {field("width", t("Print width"), "48px")}
        <Text>×</Text>
        {field("height", t("Print height"), "48px")}
        <Choice
          label={t("Unit")}
          width="58px"
          value={typed.unit}
          options={units.map((unit) => ({ value: unit, label: t(unit) }))}
          onChoose={(unit) => setTyped({ ...typed, unit })}
        />
        {field("ppi", t("Pixels per inch"), "46px")}
      </Flex>
      <Flex mt="6px" gap="6px">
        <QuietButton type="submit">{t("Use this size")}</QuietButton>
      </Flex>
      <Flex mt="6px" gap="6px">
        <Input
          size="xs"
          height="28px"
          bg="sheet"
          borderColor="rule"
          aria-label={t("Name for the list")}
          placeholder={t("name for the list")}
          autoComplete="off"
          value={typed.name}
          onChange={(event) => setTyped({ ...typed, name: event.target.value })}
        />
        <QuietButton onClick={() => add.mutate()} disabled={!typed.name.trim()}>
          {t("Add")}
        </QuietButton>
      </Flex>
      {add.error && (
        <Text role="alert" color="brick" mt="6px">
          {add.error.message}
        </Text>
      )}
    </form>
  );
}
