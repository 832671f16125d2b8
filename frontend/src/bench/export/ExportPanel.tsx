/* The Export step: how the file is written, how large, progress, the finished files. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { decimal, t } from "../../shared/words";
import { client, taken } from "../../api/client";
import { Refused } from "../../api/refused";
import { useFileOptions } from "../../api/options";
import { BesidePart } from "../../shared/BesidePart";
import { complete, FileForm } from "../../shared/FileForm";
import { Tick } from "../../shared/Tick";
import { Part } from "../../shared/Part";
import { filePresets } from "../../shared/filePresets";
import { PresetPart } from "../../shared/PresetPart";
import type { Bench } from "../useBench";
import { ExportButton } from "./ExportButton";
import { ExportLine, fileAddress, isBusy, isPlacing } from "./ExportLine";
import { RecipePart } from "./RecipePart";
import { whyNot } from "./whyNot";

const POLL_MS = 250;

interface Props {
  bench: Bench;
  /** Told how many pixels of the file there are for one of the corrected picture. */
  onScale: (scale: number | undefined) => void;
}

export function ExportPanel({ bench, onScale }: Props) {
  const queries = useQueryClient();
  const print = bench.recipe.frame.print_size;
  const opened = bench.state.file.opened_from !== null;
  const { start: usual, formats } = useFileOptions();
  const [options, setOptions] = useState(() => {
    const before = bench.state.file_options ?? usual;
    if (print) return { ...before, size: { ...before.size, kind: "print" as const } };
    return before.size.kind === "print" ? { ...before, size: usual.size } : before;
  });
  const [last, setLast] = useState<number>();
  const fetchOnDone = useRef(new Set<number>());
  const path = { picture_id: bench.state.id };
  const key = ["exports", bench.state.id];
  const list = useQuery({
    queryKey: key,
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}/exports", { params: { path } })),
    refetchInterval: (query) =>
      query.state.data?.exports.some((one) => isBusy(one) || isPlacing(one)) ? POLL_MS : false,
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
          body: {
            ...options,
            beside: opened ? options.beside : "",
            entry_id: bench.state.entry_id,
          },
        }),
      ),
    onSuccess: (made) => {
      fetchOnDone.current.add(made.id);
      setLast(made.id);
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
  // What is looked at one to one is what the file will have.
  const scale = sized?.scale;
  useEffect(() => {
    onScale(scale);
    return () => onScale(undefined);
  }, [onScale, scale]);
  const reason = whyNot({
    allowed: bench.state.may.includes("export"),
    sizing: complete(options) && !output.error && !output.data,
    sized: sized !== undefined,
    starting: start.isPending,
    enlarging: sized?.enlarged === true && !options.size.enlarge,
  });
  const refused = output.error instanceof Refused ? output.error.message : undefined;
  return (
    <Box p="16px" overflowY="auto">
      <Part title={t("The file")} first>
        <PresetPart shelf={filePresets} options={options} onTake={setOptions} />
        <FileForm
          options={options}
          onChange={setOptions}
          sizes={print ? ["full", "long_edge", "pixels", "print"] : ["full", "long_edge", "pixels"]}
          bits={bench.state.file.bits}
          inks={bench.state.file.inks}
        />
        {opened && <BesidePart options={options} onChange={setOptions} />}
        {sized && (
          <Box mt="10px" aria-live="polite">
            <Text fontFamily="mono" fontSize="12px">
              {`${sized.width} × ${sized.height} px`}
              {sized.ppi ? t(" at {ppi} ppi", { ppi: sized.ppi }) : ""}
            </Text>
            <Text color={sized.enlarged ? "brick" : "inkSoft"}>{sized.words}</Text>
            <Text color="inkSoft">
              {t("Hold Z over the picture: one to one, as the file has it.")}
            </Text>
            <FillWords
              bench={bench}
              transparent={
                formats.find(({ value }) => value === options.format)?.transparent ?? false
              }
            />
            {sized.enlarged && (
              <Tick
                words={t("Enlarge to {scale} %", { scale: decimal(sized.scale * 100) })}
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
        <ExportButton
          last={exports.find(({ id }) => id === last)}
          reason={reason}
          problem={start.error?.message}
          onExport={() => start.mutate()}
          onCancel={(id) => cancel.mutate(id)}
        />
      </Part>
      <RecipePart bench={bench} />
      <Flex direction="column" mt="18px" aria-label={t("Exports")} role="list">
        {exports.map((item) => (
          <ExportLine key={item.id} item={item} onCancel={() => cancel.mutate(item.id)} />
        ))}
      </Flex>
    </Box>
  );
}

/** What the file says of its filled corners. */
function FillWords({ bench, transparent }: { bench: Bench; transparent: boolean }) {
  if (bench.solution.cost.fill_fraction <= 0) return null;
  const left = bench.recipe.fill.method === "transparent";
  const more = left
    ? transparent
      ? ""
      : t("; in this format it becomes white")
    : t("; the file says so");
  return <Text color="level">{`${bench.report.cost.fill}${more}`}</Text>;
}
