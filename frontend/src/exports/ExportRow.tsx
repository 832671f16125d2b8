/* One export: where it comes from, how far it is, what can be done with it. */
import { Box, Checkbox, Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { Link } from "wouter";
import { t } from "../shared/words";
import type { ExportState } from "../api/client";
import { QuietButton } from "../shared/Part";
import { ThinBar } from "../shared/ThinBar";
import { timeWords } from "../shared/times";

export const busy = (item: ExportState) => item.state === "queued" || item.state === "running";

interface RowProps {
  item: ExportState;
  chosen: boolean;
  onChoose: (on: boolean) => void;
  onAgain: () => void;
  onCancel: () => void;
}

export function ExportRow({ item, chosen, onChoose, onAgain, onCancel }: RowProps) {
  const from = item.version_name ? `${item.picture_name}, ${item.version_name}` : item.picture_name;
  return (
    <Flex
      role="listitem"
      aria-label={item.file_name}
      align="center"
      gap="14px"
      rowGap="4px"
      wrap={{ base: "wrap", lg: "nowrap" }}
      px={{ base: "12px", lg: "20px" }}
      py="9px"
      borderBottomWidth="1px"
      borderColor="ruleFaint"
    >
      <Checkbox.Root
        size="sm"
        checked={chosen}
        onCheckedChange={(change) => onChoose(change.checked === true)}
      >
        <Checkbox.HiddenInput aria-label={t("Choose {file_name}", { file_name: item.file_name })} />
        <Checkbox.Control
          borderColor="inkSoft"
          _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
        />
      </Checkbox.Root>
      <Box flex={{ base: "1 0 70%", lg: "1" }} minWidth="0">
        <Text fontWeight="600" truncate>
          {item.file_name}
        </Text>
        <Text color="inkSoft" fontSize="12px" truncate>
          {`${t("from")} `}
          <Link to={`/pictures/${item.picture_id}`}>{from}</Link>
          {t(" in {set}, after “{entry}”", { set: item.set_name, entry: item.entry_what })}
        </Text>
      </Box>
      <Box width={{ base: "auto", lg: "320px" }} flex={{ base: "1 1 160px", lg: "0 0 320px" }}>
        {busy(item) ? (
          <ThinBar
            label={t("Progress of {file_name}", { file_name: item.file_name })}
            share={item.progress}
          />
        ) : (
          <Text color={item.state === "failed" ? "brick" : "ink"} fontSize="12px">
            {item.words}
          </Text>
        )}
        <Text color="inkSoft" fontSize="11px" fontFamily="mono">
          {[item.author, timeWords(item.created_at)].filter(Boolean).join(", ")}
        </Text>
      </Box>
      <Flex gap="6px" width={{ base: "auto", lg: "150px" }} justify="flex-end" flexShrink={0}>
        {busy(item) ? (
          <QuietButton onClick={onCancel}>{t("Cancel")}</QuietButton>
        ) : (
          <>
            {item.state === "done" && (
              <QuietButton asChild>
                <Anchor href={`/api/exports/${item.id}/file`} download={item.file_name}>
                  {t("Take")}
                </Anchor>
              </QuietButton>
            )}
            <QuietButton title={t("From the same entry, in the same way")} onClick={onAgain}>
              {t("Again")}
            </QuietButton>
          </>
        )}
      </Flex>
    </Flex>
  );
}
