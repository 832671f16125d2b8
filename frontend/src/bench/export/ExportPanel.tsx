/* The Export step: how the file is written, how large, progress, the finished files. */
import { Box, Button, Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, taken, type ExportState } from "../../api/client";
import { Refused } from "../../api/refused";
import { useFileOptions } from "../../api/options";
import { complete, EnlargeBox, FileForm } from "../../shared/FileForm";
import { Part } from "../../shared/Part";
import { PresetPart } from "../../shared/PresetPart";
import type { Bench } from "../useBench";
import { RecipePart } from "./RecipePart";
import { ThinBar } from "../../shared/ThinBar";

const POLL_MS = 250;
const busy = (item: ExportState) => item.state === "queued" || item.state === "running";

export function ExportPanel({ bench }: { bench: Bench }) {
  const queries = useQueryClient();
  const print = bench.recipe.frame.print_size;
  const { start: usual, formats } = useFileOptions();
  const [options, setOptions] = useState(() => {
    const before = bench.state.file_options ?? usual;
    if (print) return { ...before, size: { ...before.size, kind: "print" as const } };
    return before.size.kind === "print" ? { ...before, size: usual.size } : before;
  });
  const fetchOnDone = useRef(new Set<number>());
  const path = { picture_id: bench.state.id };
  const key = ["exports", bench.state.id];
  const list = useQuery({
    queryKey: key,
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}/exports", { params: { path } })),
    refetchInterval: (query) => (query.state.data?.exports.some(busy) ? POLL_MS : false),
  });
  const output = useQuery({
    queryKey: ["output", bench.state.id, bench.state.entry_id, options.size],
    enabled: complete(options),
    retry: false,
    queryFn: () =>
      taken(
        client.POST("/api/pictures/{picture_id}/output", {
          params: { path },
          body: { entry_id: bench.state.entry_id, size: options.size },
        }),
      ),
  });
  const start = useMutation({
    mutationFn: () =>
      taken(
        client.POST("/api/pictures/{picture_id}/exports", {
          params: { path },
          body: { ...options, entry_id: bench.state.entry_id },
        }),
      ),
    onSuccess: (made) => {
      fetchOnDone.current.add(made.id);
      void queries.invalidateQueries({ queryKey: key });
    },
  });
  const cancel = useMutation({
    mutationFn: (id: number) =>
      taken(
        client.POST("/api/exports/{export_id}/cancel", { params: { path: { export_id: id } } }),
      ),
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

  const sized = complete(options) ? output.data : undefined;
  const refused = output.error instanceof Refused ? output.error.message : undefined;
  return (
    <Box p="16px" overflowY="auto">
      <Part title="The file" first>
        <PresetPart options={options} onTake={setOptions} />
        <FileForm
          options={options}
          onChange={setOptions}
          sizes={print ? ["full", "long_edge", "pixels", "print"] : ["full", "long_edge", "pixels"]}
          deep={bench.state.file.bits === 16}
        />
        {sized && (
          <Box mt="10px" aria-live="polite">
            <Text fontFamily="mono" fontSize="12px">
              {sized.width} × {sized.height} px{sized.ppi ? ` at ${sized.ppi} ppi` : ""}
            </Text>
            <Text color={sized.enlarged ? "brick" : "inkSoft"}>{sized.words}</Text>
            <FillWords
              bench={bench}
              transparent={
                formats.find(({ value }) => value === options.format)?.transparent ?? false
              }
            />
            {sized.enlarged && (
              <EnlargeBox
                words={`Enlarge to ${(sized.scale * 100).toFixed(0)} %`}
                checked={options.size.enlarge}
                onChange={(enlarge) =>
                  setOptions({ ...options, size: { ...options.size, enlarge } })
                }
              />
            )}
          </Box>
        )}
        {refused && (
          <Text role="alert" color="brick" mt="8px">
            {refused}
          </Text>
        )}
        <Button
          mt="12px"
          width="100%"
          size="sm"
          bg="verdigris"
          color="onVerdigris"
          onClick={() => start.mutate()}
          disabled={start.isPending || !sized || (sized.enlarged && !options.size.enlarge)}
        >
          Export
        </Button>
        {start.error && (
          <Text role="alert" color="brick" mt="8px">
            {start.error.message}
          </Text>
        )}
      </Part>
      <RecipePart bench={bench} />
      <Flex direction="column" mt="18px" aria-label="Exports" role="list">
        {exports.map((item) => (
          <ExportLine key={item.id} item={item} onCancel={() => cancel.mutate(item.id)} />
        ))}
      </Flex>
    </Box>
  );
}

function ExportLine({ item, onCancel }: { item: ExportState; onCancel: () => void }) {
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
        {busy(item) && (
          <Button size="2xs" variant="outline" borderColor="rule" color="ink" onClick={onCancel}>
            Cancel
          </Button>
        )}
      </Flex>
      {busy(item) && (
        <ThinBar mt="6px" label={`Progress of ${item.file_name}`} share={item.progress} />
      )}
      <Text color={item.state === "failed" ? "brick" : "inkSoft"} fontSize="12px">
        {item.words}
      </Text>
    </Box>
  );
}

const fileAddress = (item: ExportState) => `/api/exports/${item.id}/file`;

/** What the file says of its filled corners. */
function FillWords({ bench, transparent }: { bench: Bench; transparent: boolean }) {
  if (bench.solution.cost.fill_fraction <= 0) return null;
  const left = bench.recipe.fill.method === "transparent";
  const more = left
    ? transparent
      ? ""
      : "; in this format it becomes white"
    : "; the file says so";
  return <Text color="level">{`${bench.report.cost.fill}${more}`}</Text>;
}
