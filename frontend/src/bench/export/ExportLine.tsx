/* One file in the list of a picture's exports. */
import { Box, Button, Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { ThinBar } from "../../shared/ThinBar";
import type { ExportState } from "../../api/client";

export const isBusy = (item: ExportState) => item.state === "queued" || item.state === "running";
/** Whether a copy beside the original is still to come. */
export const isPlacing = (item: ExportState) => item.state === "done" && item.placed === "";
export const fileAddress = (item: ExportState) => `/api/exports/${item.id}/file`;

export function ExportLine({ item, onCancel }: { item: ExportState; onCancel: () => void }) {
  return (
    <Box role="listitem" py="9px" borderTopWidth="1px" borderColor="rule">
      <Flex justify="space-between" gap="10px">
        {item.state === "done" ? (
          <Anchor
            href={fileAddress(item)}
            download={item.file_name}
            color="verdigris"
            fontWeight="600"
            truncate
            title={item.file_name}
          >
            {item.file_name}
          </Anchor>
        ) : (
          <Text truncate>{item.file_name}</Text>
        )}
        {isBusy(item) && (
          <Button size="2xs" variant="outline" borderColor="rule" color="ink" onClick={onCancel}>
            {t("Cancel")}
          </Button>
        )}
      </Flex>
      {isBusy(item) && (
        <ThinBar
          mt="6px"
          label={t("Progress of {file_name}", { file_name: item.file_name })}
          share={item.progress}
        />
      )}
      <Text color={item.state === "failed" ? "brick" : "inkSoft"} fontSize="12px">
        {item.words}
      </Text>
    </Box>
  );
}
