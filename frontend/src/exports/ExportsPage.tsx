/* All exports, across pictures: how far they are, take them, make them again, clear them. */
import { Box, Link as Anchor, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { t, tn } from "../shared/words";
import { client, taken, type ExportList, type ExportState } from "../api/client";
import { useKeys } from "../shared/keys";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { busy, ExportRow } from "./ExportRow";

const POLL_MS = 500;
const MOST = 500;
/** Every so often the whole list is asked for: others may have cleared some. */
const WHOLE_EVERY = 20;

export function ExportsPage() {
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const looks = useRef(0);
  const list = useQuery({
    queryKey: ["exports"],
    queryFn: () => {
      const known = queries.getQueryData<ExportList>(["exports"])?.exports ?? [];
      looks.current += 1;
      return looks.current % WHOLE_EVERY === 1 ? wholeList() : withChanges(known);
    },
    refetchInterval: (query) => (query.state.data?.exports.some(busy) ? POLL_MS : false),
  });
  const refresh = () => {
    looks.current = 0;
    return queries.invalidateQueries({ queryKey: ["exports"] });
  };
  const path = (id: number) => ({ params: { path: { export_id: id } } });
  const again = useMutation({
    mutationFn: (id: number) => taken(client.POST("/api/exports/{export_id}/again", path(id))),
    onSuccess: refresh,
  });
  const cancel = useMutation({
    mutationFn: (id: number) => taken(client.POST("/api/exports/{export_id}/cancel", path(id))),
    onSuccess: refresh,
  });
  const clear = useMutation({
    mutationFn: (ids: number[]) =>
      taken(client.POST("/api/exports/clear", { body: { ids, older_days: null } })),
    onSuccess: async () => {
      setChosen(new Set());
      await refresh();
    },
  });
  useKeys(["escape"], () => navigate("/"));
  const exports = list.data?.exports ?? [];
  const picked = exports.filter(({ id }) => chosen.has(id));
  const done = picked.filter(({ state }) => state === "done");
  const idle = picked.filter((item) => !busy(item));
  const ids = done.map(({ id }) => id).join(",");
  return (
    <Page
      back="/"
      kind={t("exports")}
      title={t("Exports")}
      about={list.data && tn("{n} export", "{n} exports", exports.length)}
      problem={(list.error ?? again.error ?? cancel.error ?? clear.error)?.message}
      acts={
        exports.length > 0 && (
          <>
            <QuietButton
              height="30px"
              onClick={() =>
                setChosen(picked.length ? new Set() : new Set(exports.map(({ id }) => id)))
              }
            >
              {picked.length ? t("Choose none") : t("Choose all")}
            </QuietButton>
            {done.length > 0 && (
              <QuietButton height="30px" asChild borderColor="verdigris" color="verdigris">
                <Anchor href={`/api/exports.zip?ids=${ids}`} download>
                  {t("Take {length} as one ZIP", { length: done.length })}
                </Anchor>
              </QuietButton>
            )}
            {idle.length > 0 && (
              <QuietButton
                height="30px"
                color="brick"
                title={t("The pictures stay; a cleared file can be made again from its entry")}
                onClick={() => clear.mutate(idle.map(({ id }) => id))}
              >
                {t("Clear {length}", { length: idle.length })}
              </QuietButton>
            )}
          </>
        )
      }
    >
      <Box
        flex="1"
        overflowY="auto"
        role={exports.length ? "list" : undefined}
        aria-label={t("All exports")}
      >
        {list.data && exports.length === 0 && (
          <Text p="20px" color="inkSoft">
            {t(
              "Nothing was exported yet. Open a picture and go to its Export step, or choose several on the contact sheet. What is asked for goes on by itself, also when this window is closed.",
            )}
          </Text>
        )}
        {exports.map((item) => (
          <ExportRow
            key={item.id}
            item={item}
            chosen={chosen.has(item.id)}
            onChoose={(on) =>
              setChosen((now) => {
                const next = new Set(now);
                if (on) next.add(item.id);
                else next.delete(item.id);
                return next;
              })
            }
            onAgain={() => again.mutate(item.id)}
            onCancel={() => cancel.mutate(item.id)}
          />
        ))}
      </Box>
    </Page>
  );
}

const wholeList = () => taken(client.GET("/api/exports", { params: { query: { limit: MOST } } }));

/** The list with what changed since the oldest that was not finished was asked for. */
async function withChanges(known: ExportState[]): Promise<ExportList> {
  const since = known
    .filter(busy)
    .map((item) => item.created_at)
    .sort()[0];
  if (!since) return wholeList();
  const query = { limit: MOST, since };
  const { exports } = await taken(client.GET("/api/exports", { params: { query } }));
  const changed = new Set(exports.map(({ id }) => id));
  const all = [...exports, ...known.filter(({ id }) => !changed.has(id))];
  return { exports: all.sort((a, b) => b.id - a.id) };
}
