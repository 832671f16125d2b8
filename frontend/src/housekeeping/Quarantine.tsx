/* Files that the database does not name, such as originals after an old copy of it was put back:
   taken into a set again, or deleted by a person. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { t, tn } from "../shared/words";
import { client, taken, type QuarantinedFile } from "../api/client";
import { Choice, QuietButton } from "../shared/Part";
import { ProblemBar } from "../shared/ProblemBar";
import { dayWords, sizeWords } from "../shared/times";

const SHOWN = 12;

export function Quarantine() {
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<string>();
  const [asking, setAsking] = useState(false);
  const found = useQuery({
    queryKey: ["quarantine"],
    queryFn: () => taken(client.GET("/api/quarantine")),
  });
  const sets = useQuery({ queryKey: ["sets"], queryFn: () => taken(client.GET("/api/sets")) });
  const onSuccess = async () => {
    setAsking(false);
    await queries.invalidateQueries();
  };
  const takeBack = useMutation({
    mutationFn: (body: { names: string[]; set_id: number }) =>
      taken(client.POST("/api/quarantine/take-back", { body })),
    onSettled: onSuccess,
  });
  const remove = useMutation({
    mutationFn: (names: string[]) =>
      taken(client.POST("/api/quarantine/delete", { body: { names } })),
    onSuccess,
  });
  const files = found.data?.files ?? [];
  if (!files.length) return null;
  const names = files.map(({ name }) => name);
  const options = (sets.data?.sets ?? []).map(({ id, name }) => ({
    value: String(id),
    label: name,
  }));
  const into = chosen ?? options[0]?.value;
  const problem = found.error ?? takeBack.error ?? remove.error;
  return (
    <Box as="section" aria-label={t("Set aside")} mt="28px" maxWidth="940px">
      <Text as="h2" fontWeight="600">
        {tn("Set aside: {n} file", "Set aside: {n} files", files.length)}
      </Text>
      <Text color="inkSoft" mt="2px" mb="10px" lineHeight="1.5">
        {t(
          "They lie in the data folder, but the database does not name them: an upload or a bin that was interrupted, or an older copy of the database. Nothing but you deletes them.",
        )}
      </Text>
      {problem && (
        <ProblemBar
          message={problem.message}
          onClose={() => {
            takeBack.reset();
            remove.reset();
          }}
        />
      )}
      <Box
        role="list"
        aria-label={t("Files set aside")}
        borderTopWidth="1px"
        borderColor="ruleFaint"
      >
        {files.slice(0, SHOWN).map((file) => (
          <Line key={file.name} file={file} />
        ))}
      </Box>
      {files.length > SHOWN && (
        <Text color="inkSoft" mt="6px">
          {tn("and {n} more file", "and {n} more files", files.length - SHOWN)}
        </Text>
      )}
      <Flex align="center" gap="8px" mt="12px" wrap="wrap">
        <Text>{t("Take all of them into")}</Text>
        <Choice
          label={t("Set for what was set aside")}
          value={into ?? ""}
          options={options}
          width="220px"
          onChoose={setChosen}
        />
        <QuietButton
          disabled={!into || takeBack.isPending}
          title={into ? undefined : t("Make a set first")}
          onClick={() => takeBack.mutate({ names, set_id: Number(into) })}
        >
          {t("Take in")}
        </QuietButton>
        <Box flex="1" />
        {asking ? (
          <QuietButton color="brick" autoFocus onClick={() => remove.mutate(names)}>
            {tn("Delete {n} file for good", "Delete {n} files for good", files.length)}
          </QuietButton>
        ) : (
          <QuietButton color="brick" onClick={() => setAsking(true)}>
            {t("Delete all…")}
          </QuietButton>
        )}
      </Flex>
    </Box>
  );
}

function Line({ file }: { file: QuarantinedFile }) {
  const isExport = file.name.startsWith("export-");
  const name =
    file.came_as ||
    (isExport ? file.name : t("original {name}", { name: file.name.slice(0, SHOWN) }));
  return (
    <Flex
      role="listitem"
      gap="16px"
      py="7px"
      borderBottomWidth="1px"
      borderColor="ruleFaint"
      align="baseline"
    >
      <Text flex="1" truncate title={file.name}>
        {name}
      </Text>
      <Text color="inkSoft">{file.since && t("since {day}", { day: dayWords(file.since) })}</Text>
      <Text fontFamily="mono" width="90px" textAlign="right">
        {sizeWords(file.size)}
      </Text>
    </Flex>
  );
}
