/* The Export step: format and quality, progress, the finished files. */
import { Box, Button, Flex, Link as Anchor, NativeSelect, Progress, Slider, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, taken, type ExportFormat, type ExportState } from "../api/client";
import type { Bench } from "./useBench";

const POLL_MS = 250;
const FORMATS: [ExportFormat, string][] = [
  ["jpeg", "JPEG, 8 bit"],
  ["png", "PNG, lossless"],
  ["tiff", "TIFF, lossless"],
];
const busy = (item: ExportState) => item.state === "queued" || item.state === "running";

export function ExportPanel({ bench }: { bench: Bench }) {
  const queries = useQueryClient();
  const [format, setFormat] = useState<ExportFormat>("jpeg");
  const [quality, setQuality] = useState(95);
  const fetchOnDone = useRef(new Set<number>());
  const path = { picture_id: bench.state.id };
  const key = ["exports", bench.state.id];
  const list = useQuery({
    queryKey: key,
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}/exports", { params: { path } })),
    refetchInterval: (query) => (query.state.data?.exports.some(busy) ? POLL_MS : false),
  });
  const start = useMutation({
    mutationFn: () => taken(client.POST("/api/pictures/{picture_id}/exports", { params: { path }, body: { entry_id: bench.state.entry_id, format, quality } })),
    onSuccess: (made) => {
      fetchOnDone.current.add(made.id);
      void queries.invalidateQueries({ queryKey: key });
    },
  });
  const cancel = useMutation({
    mutationFn: (id: number) => taken(client.POST("/api/exports/{export_id}/cancel", { params: { path: { export_id: id } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: key }),
  });
  const exports = list.data?.exports ?? [];

  useEffect(() => {
    for (const item of list.data?.exports ?? [])
      if (item.state === "done" && fetchOnDone.current.delete(item.id)) {
        const link = document.createElement("a");
        link.href = fileAddress(item);
        link.download = item.file_name;
        link.click();
      }
  }, [list.data]);

  const { frame } = bench.solution;
  const { file } = bench.state;
  return (
    <Box p="16px" overflowY="auto">
      <Text as="h2" fontSize="12px" fontWeight="600" color="inkSoft" mb="10px">
        Export at full size
      </Text>
      <NativeSelect.Root size="sm">
        <NativeSelect.Field aria-label="Format" fontSize="13px" bg="sheet" borderColor="rule" value={format} onChange={(event) => setFormat(event.target.value as ExportFormat)}>
          {FORMATS.map(([value, label]) => (
            <option key={value} value={value}>
              {value !== "jpeg" && file.bits === 16 ? `${label}, 16 bit` : label}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {format === "jpeg" && (
        <Slider.Root mt="14px" size="sm" min={50} max={100} value={[quality]} onValueChange={({ value }) => setQuality(value[0] ?? 95)} aria-label={["Quality"]}>
          <Flex justify="space-between">
            <Slider.Label fontWeight="400" fontSize="13px">Quality</Slider.Label>
            <Slider.ValueText fontFamily="mono" fontSize="13px" />
          </Flex>
          <Slider.Control>
            <Slider.Track bg="paperDeep">
              <Slider.Range bg="verdigris" />
            </Slider.Track>
            <Slider.Thumbs borderColor="verdigris" />
          </Slider.Control>
        </Slider.Root>
      )}
      <Text mt="14px" fontFamily="mono" fontSize="12px">
        {frame.width} × {frame.height} px
      </Text>
      <Text color="inkSoft">
        Profile {file.profile ? `“${file.profile}”` : "as in the original (none)"} and metadata are kept.
      </Text>
      <Button mt="14px" width="100%" size="sm" bg="verdigris" color="onVerdigris" onClick={() => start.mutate()} disabled={start.isPending}>
        Export
      </Button>
      {start.error && (
        <Text role="alert" color="brick" mt="8px">
          {start.error.message}
        </Text>
      )}
      <Flex direction="column" mt="18px" aria-label="Exports" role="list">
        {exports.map((item) => (
          <Box key={item.id} role="listitem" py="9px" borderTopWidth="1px" borderColor="rule">
            <Flex justify="space-between" gap="10px">
              {item.state === "done" ? (
                <Anchor href={fileAddress(item)} download={item.file_name} color="verdigris" fontWeight="600" truncate title={item.file_name}>
                  {item.file_name}
                </Anchor>
              ) : (
                <Text truncate>{item.file_name}</Text>
              )}
              {busy(item) && (
                <Button size="2xs" variant="outline" borderColor="rule" color="ink" onClick={() => cancel.mutate(item.id)}>
                  Cancel
                </Button>
              )}
            </Flex>
            {busy(item) && (
              <Progress.Root mt="6px" size="xs" value={Math.round(item.progress * 100)} aria-label={`Progress of ${item.file_name}`}>
                <Progress.Track bg="paperDeep">
                  <Progress.Range bg="verdigris" />
                </Progress.Track>
              </Progress.Root>
            )}
            <Text color={item.state === "failed" ? "brick" : "inkSoft"} fontSize="12px">
              {describe(item)}
            </Text>
          </Box>
        ))}
      </Flex>
    </Box>
  );
}

const fileAddress = (item: ExportState) => `/api/exports/${item.id}/file`;

function describe(item: ExportState): string {
  if (item.state === "done")
    return `${item.width} × ${item.height} px, ${((item.byte_size ?? 0) / 1e6).toFixed(1)} MB, ${item.empty_pixels} empty pixels`;
  return item.problem ?? { queued: "waiting", running: "rendering", cancelled: "cancelled; no file was made", failed: "failed" }[item.state];
}
