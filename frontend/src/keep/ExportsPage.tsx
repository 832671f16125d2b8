/* All exports, across pictures: how far they are, take them, make them again, clear them. */
import { Box, Checkbox, Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, taken, type ExportList, type ExportState } from "../api/client";
import { useKeys } from "../shared/keys";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { countWords, timeWords } from "../shared/times";
import { ThinBar } from "../shared/ThinBar";

const POLL_MS = 500;
const MOST = 500;
/** Every so often the whole list is asked for: others may have cleared some. */
const WHOLE_EVERY = 20;
const busy = (item: ExportState) => item.state === "queued" || item.state === "running";

export function ExportsPage() {
  const queries = useQueryClient();
  const navigate = useNavigate();
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
  useKeys(["escape"], () => void navigate("/"));
  const exports = list.data?.exports ?? [];
  const picked = exports.filter(({ id }) => chosen.has(id));
  const done = picked.filter(({ state }) => state === "done");
  const idle = picked.filter((item) => !busy(item));
  const ids = done.map(({ id }) => id).join(",");
  return (
    <Page
      back="/"
      kind="exports"
      title="Exports"
      about={list.data && countWords(exports.length, "export")}
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
              {picked.length ? "Choose none" : "Choose all"}
            </QuietButton>
            {done.length > 0 && (
              <QuietButton height="30px" asChild borderColor="verdigris" color="verdigris">
                <Anchor href={`/api/exports.zip?ids=${ids}`} download>
                  Take {done.length} as one ZIP
                </Anchor>
              </QuietButton>
            )}
            {idle.length > 0 && (
              <QuietButton
                height="30px"
                color="brick"
                title="The pictures stay; a cleared file can be made again from its entry"
                onClick={() => clear.mutate(idle.map(({ id }) => id))}
              >
                Clear {idle.length}
              </QuietButton>
            )}
          </>
        )
      }
    >
      <Box as="main" flex="1" overflowY="auto" role="list" aria-label="All exports">
        {list.data && exports.length === 0 && (
          <Text p="20px" color="inkSoft">
            Nothing was exported yet. What is asked for goes on by itself, also when this window is
            closed.
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

interface RowProps {
  item: ExportState;
  chosen: boolean;
  onChoose: (on: boolean) => void;
  onAgain: () => void;
  onCancel: () => void;
}

function ExportRow({ item, chosen, onChoose, onAgain, onCancel }: RowProps) {
  const from = item.version_name ? `${item.picture_name}, ${item.version_name}` : item.picture_name;
  return (
    <Flex
      role="listitem"
      aria-label={item.file_name}
      align="center"
      gap="14px"
      px="20px"
      py="9px"
      borderBottomWidth="1px"
      borderColor="ruleFaint"
    >
      <Checkbox.Root
        size="sm"
        checked={chosen}
        onCheckedChange={(change) => onChoose(change.checked === true)}
      >
        <Checkbox.HiddenInput aria-label={`Choose ${item.file_name}`} />
        <Checkbox.Control
          borderColor="inkSoft"
          _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
        />
      </Checkbox.Root>
      <Box flex="1" minWidth="0">
        <Text fontWeight="600" truncate>
          {item.file_name}
        </Text>
        <Text color="inkSoft" fontSize="12px" truncate>
          from <Link to={`/pictures/${item.picture_id}`}>{from}</Link> in {item.set_name}, after “
          {item.entry_what}”
        </Text>
      </Box>
      <Box width="320px" flexShrink={0}>
        {busy(item) ? (
          <ThinBar label={`Progress of ${item.file_name}`} share={item.progress} />
        ) : (
          <Text color={item.state === "failed" ? "brick" : "ink"} fontSize="12px">
            {item.words}
          </Text>
        )}
        <Text color="inkSoft" fontSize="11px" fontFamily="mono">
          {timeWords(item.created_at)}
        </Text>
      </Box>
      <Flex gap="6px" width="150px" justify="flex-end" flexShrink={0}>
        {busy(item) ? (
          <QuietButton onClick={onCancel}>Cancel</QuietButton>
        ) : (
          <>
            {item.state === "done" && (
              <QuietButton asChild>
                <Anchor href={`/api/exports/${item.id}/file`} download={item.file_name}>
                  Take
                </Anchor>
              </QuietButton>
            )}
            <QuietButton title="From the same entry, in the same way" onClick={onAgain}>
              Again
            </QuietButton>
          </>
        )}
      </Flex>
    </Flex>
  );
}
