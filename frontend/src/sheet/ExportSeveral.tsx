/* Several pictures exported at once, and taken as one ZIP. */
import { Box, Button, Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { useMutation, useQueries } from "@tanstack/react-query";
import { useState } from "react";
import { t, tn } from "../shared/words";
import { client, taken, type ExportState, type PictureSummary } from "../api/client";
import { useFileOptions } from "../api/options";
import { BesidePart } from "../shared/BesidePart";
import { complete, FileForm } from "../shared/FileForm";
import { Tick } from "../shared/Tick";
import { filePresets } from "../shared/filePresets";
import { PresetPart } from "../shared/PresetPart";
import { NamesPreview } from "./NamesPreview";
import { Window } from "../shared/Window";
import { ThinBar } from "../shared/ThinBar";

const POLL_MS = 300;
const busy = (item: ExportState | undefined) =>
  !item || item.state === "queued" || item.state === "running";

interface Props {
  pictures: PictureSummary[];
  onClose: () => void;
  onDone: () => void;
}

export function ExportSeveral({ pictures, onClose, onDone }: Props) {
  const [options, setOptions] = useState(useFileOptions().start);
  const start = useMutation({
    mutationFn: () =>
      taken(
        client.POST("/api/exports", {
          body: { ...options, picture_ids: pictures.map((picture) => picture.id) },
        }),
      ),
  });
  const cancel = useMutation({
    mutationFn: (id: number) =>
      taken(
        client.POST("/api/exports/{export_id}/cancel", { params: { path: { export_id: id } } }),
      ),
  });
  const made = start.data?.exports ?? [];
  const states = useQueries({
    queries: made.map((item) => ({
      queryKey: ["export", item.id],
      queryFn: () =>
        taken(client.GET("/api/exports/{export_id}", { params: { path: { export_id: item.id } } })),
      refetchInterval: (query: { state: { data?: ExportState } }) =>
        busy(query.state.data) ? POLL_MS : (false as const),
    })),
  }).map((query) => query.data);
  const running = made.length > 0 && states.some(busy);
  const done = states.filter((item) => item?.state === "done");
  const { size } = options;
  const enlarging = (enlarge: boolean) => setOptions({ ...options, size: { ...size, enlarge } });
  const close = () => {
    onDone();
    onClose();
  };
  return (
    <Window
      title={tn("Export {n} picture", "Export {n} pictures", pictures.length)}
      width="520px"
      onClose={close}
    >
      {made.length === 0 ? (
        <>
          <PresetPart shelf={filePresets} options={options} onTake={setOptions} />
          <FileForm
            options={options}
            onChange={setOptions}
            sizes={["full", "long_edge", "print"]}
            bits={8}
            inks
          />
          {size.kind !== "full" && (
            <Tick
              words={t("Enlarge where a picture has fewer pixels")}
              checked={size.enlarge}
              onChange={enlarging}
            />
          )}
          {pictures.every(({ opened }) => opened) && (
            <BesidePart options={options} onChange={setOptions} />
          )}
          <NamesPreview ids={pictures.map(({ id }) => id)} options={options} />
          {start.error && (
            <Text role="alert" color="brick" mt="10px">
              {start.error.message}
            </Text>
          )}
          <Button
            mt="14px"
            width="100%"
            size="sm"
            bg="verdigris"
            color="onVerdigris"
            disabled={!complete(options) || start.isPending}
            onClick={() => start.mutate()}
          >
            {t("Export all")}
          </Button>
        </>
      ) : (
        <>
          <Flex
            direction="column"
            maxHeight="340px"
            overflowY="auto"
            role="list"
            aria-label={t("Exports")}
          >
            {made.map((item, index) => {
              const now = states[index] ?? item;
              return (
                <Box key={item.id} role="listitem" py="7px" borderTopWidth="1px" borderColor="rule">
                  <Flex justify="space-between" gap="10px">
                    <Text truncate>{now.file_name}</Text>
                    <Text color={now.state === "failed" ? "brick" : "inkSoft"} whiteSpace="nowrap">
                      {now.state === "done"
                        ? `${now.width} × ${now.height} px`
                        : now.problem
                          ? t("failed")
                          : now.words}
                    </Text>
                  </Flex>
                  {now.problem && <Text color="brick">{now.problem}</Text>}
                  {now.state === "running" && (
                    <ThinBar
                      mt="4px"
                      label={t("Progress of {file_name}", { file_name: now.file_name })}
                      share={now.progress}
                    />
                  )}
                </Box>
              );
            })}
          </Flex>
          {running ? (
            <Button
              mt="14px"
              width="100%"
              size="sm"
              variant="outline"
              borderColor="rule"
              color="ink"
              onClick={() => made.forEach((item) => cancel.mutate(item.id))}
            >
              {t("Cancel what is left")}
            </Button>
          ) : (
            done.length > 0 && (
              <Button asChild mt="14px" width="100%" size="sm" bg="verdigris" color="onVerdigris">
                <Anchor
                  href={`/api/exports.zip?ids=${done.map((item) => item?.id).join(",")}`}
                  download
                  _hover={{ textDecoration: "none" }}
                >
                  {tn("Take {n} picture as one ZIP", "Take {n} pictures as one ZIP", done.length)}
                </Anchor>
              </Button>
            )
          )}
        </>
      )}
    </Window>
  );
}
