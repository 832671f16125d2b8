/* What is kept, how large it is, and what is free. */
import { Box, Flex, Table, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { t, tn } from "../shared/words";
import { client, taken } from "../api/client";
import { useKeys } from "../shared/keys";
import { useRoom } from "../shared/useWindow";
import { Page } from "../shared/Page";
import { Choice, QuietButton } from "../shared/Part";
import { sizeWords } from "../shared/times";
import { ThinBar } from "../shared/ThinBar";
import { Quarantine } from "./Quarantine";

const AGES = [
  { value: "7", label: t("older than a week") },
  { value: "30", label: t("older than 30 days") },
  { value: "180", label: t("older than half a year") },
  { value: "0", label: t("all that are finished") },
];

export function StoragePage() {
  const queries = useQueryClient();
  const [age, setAge] = useState("30");
  const storage = useQuery({
    queryKey: ["storage"],
    queryFn: () => taken(client.GET("/api/storage")),
  });
  const clear = useMutation({
    mutationFn: () =>
      taken(client.POST("/api/exports/clear", { body: { older_days: Number(age), ids: null } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  useKeys(["escape"], () => navigate("/"));
  const state = storage.data;
  const { narrow, slim } = useRoom();
  return (
    <Page
      back="/"
      kind={t("storage")}
      title={t("Storage")}
      about={state && t("{size_words} free on the disk", { size_words: sizeWords(state.free) })}
      problem={(storage.error ?? clear.error)?.message}
    >
      <Box flex="1" overflowY="auto" p="20px">
        <Table.Root size="sm" maxWidth="940px" unstyled width="100%" borderCollapse="collapse">
          <Table.Body>
            {state?.lines.map((line) => (
              <Table.Row
                key={line.name}
                borderBottomWidth="1px"
                borderColor="ruleFaint"
                aria-label={line.label}
              >
                <Table.Cell py="11px" width={slim ? undefined : "190px"} fontWeight="600">
                  {line.label}
                  {slim && (
                    <Text fontWeight="400" color="inkSoft" fontSize="12px">
                      {line.about}
                    </Text>
                  )}
                </Table.Cell>
                {!slim && <Table.Cell color="inkSoft">{line.about}</Table.Cell>}
                <Table.Cell fontFamily="mono" textAlign="right" whiteSpace="nowrap" px="12px">
                  {line.name === "database" ? "" : tn("{n} file", "{n} files", line.files)}
                </Table.Cell>
                <Table.Cell fontFamily="mono" textAlign="right" whiteSpace="nowrap" width="90px">
                  {sizeWords(line.size)}
                </Table.Cell>
                <Table.Cell width={narrow ? "auto" : "210px"} pl={slim ? "8px" : "20px"}>
                  {line.most && !slim && (
                    <Flex align="center" gap="8px" color="inkSoft" fontSize="12px">
                      <ThinBar
                        width="74px"
                        label={t("Budget of {label}", { label: line.label })}
                        share={Math.min(1, line.size / line.most)}
                      />
                      {t("of {size}", { size: sizeWords(line.most) })}
                    </Flex>
                  )}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
        <Flex align="center" gap="8px" mt="20px" wrap="wrap">
          <Text>{t("Clear exported files")}</Text>
          <Choice
            label={t("Which exported files")}
            value={age}
            options={AGES}
            width="190px"
            onChoose={setAge}
          />
          <QuietButton disabled={clear.isPending} onClick={() => clear.mutate()}>
            {t("Clear")}
          </QuietButton>
          {clear.data && (
            <Text role="status">
              {tn("{n} export cleared.", "{n} exports cleared.", clear.data.count)}
            </Text>
          )}
        </Flex>
        <Text color="inkSoft" mt="14px" maxWidth="640px" lineHeight="1.5">
          {t(
            "What can be made again keeps its budget by itself, the least looked at going first. What is in the bin leaves it after {bin_days} days; its originals are set aside then. Nothing but you ever deletes an original. The budgets are settings; the README lists them.",
            { bin_days: state?.bin_days },
          )}
        </Text>
        <Quarantine />
      </Box>
    </Page>
  );
}
