/* The contact sheet: sets on the left, the pictures of one set on the right; files and folders can
   be dropped anywhere. */
import { Button, Flex, Input, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";
import { useDropzone } from "react-dropzone";
import { useNavigate, useParams } from "react-router";
import { client, taken } from "../api/client";
import { Refused } from "../api/refused";
import { useKeys, within } from "../shared/keys";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { ProblemBar } from "../shared/ProblemBar";
import { SchemeButton } from "../shared/SchemeButton";
import { Choice, QuietButton } from "../shared/Part";
import { countWords } from "../shared/times";
import { arranged, FILTERS, grouped, ORDERS, type Filter, type Order } from "./arranging";
import { ChosenBar } from "./ChosenBar";
import { ExportSeveral } from "./ExportSeveral";
import { IncomingList } from "./IncomingList";
import { IntoWindow, type IntoWay } from "./IntoWindow";
import { PictureGrid } from "./PictureGrid";
import { SetList } from "./SetList";
import { SetWindow } from "./SetWindow";
import { useSelection } from "./useSelection";
import { useUploads } from "./useUploads";

const READ_MS = 3000;
const FIRST_SET = "First pictures";

export function SheetPage() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [dismissed, setDismissed] = useState<string>();
  const [order, setOrder] = useState<Order>("added");
  const [filter, setFilter] = useState<Filter>("all");
  const [words, setWords] = useState("");
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set());
  const [window, setWindow] = useState<"export" | "set" | IntoWay>();
  const finder = useRef<HTMLInputElement>(null);
  const sets = useQuery({ queryKey: ["sets"], queryFn: () => taken(client.GET("/api/sets")) });
  const given = useParams().setId;
  const setId = given ? Number(given) : sets.data?.sets[0]?.id;
  const contents = useQuery({
    queryKey: ["set", setId],
    enabled: setId !== undefined,
    queryFn: () =>
      taken(client.GET("/api/sets/{set_id}", { params: { path: { set_id: setId as number } } })),
    // What is read in the background is shown as it comes.
    refetchInterval: (query) =>
      query.state.data?.pictures.some(({ told, state }) => told === "unread" && state === "new") &&
      READ_MS,
  });
  const refresh = useCallback(async () => {
    await queries.invalidateQueries({ queryKey: ["set"] });
    await queries.invalidateQueries({ queryKey: ["sets"] });
  }, [queries]);
  const targetSet = useCallback(async () => {
    if (setId !== undefined) return setId;
    const made = await taken(client.POST("/api/sets", { body: { name: FIRST_SET } }));
    await queries.invalidateQueries({ queryKey: ["sets"] });
    return made.id;
  }, [queries, setId]);
  const uploads = useUploads(targetSet, refresh);
  const drop = useDropzone({
    onDrop: (files) => void uploads.add(files),
    noClick: true,
    noKeyboard: true,
  });
  const toBin = useMutation({
    mutationFn: (ids: number[]) =>
      taken(client.POST("/api/pictures/bin", { body: { picture_ids: ids } })),
    onSuccess: refresh,
  });
  const outOfBin = useMutation({
    mutationFn: (ids: number[]) =>
      taken(client.POST("/api/bin/restore", { body: { picture_ids: ids, set_ids: [] } })),
    onSuccess: async () => {
      toBin.reset();
      await refresh();
    },
  });

  const all = contents.data?.pictures;
  const groups = useMemo(() => grouped(all ?? []), [all]);
  const shown = useMemo(
    () => arranged(groups, { order, filter, words }),
    [groups, order, filter, words],
  );
  const ids = useMemo(
    () =>
      shown.flatMap(({ first, others }) => [
        first.id,
        ...(unfolded.has(first.group) ? others.map(({ id }) => id) : []),
      ]),
    [shown, unfolded],
  );
  const selection = useSelection(ids);
  // Choices are of one set: those of another one are not shown, and not exported.
  const chosen = (all ?? []).filter(({ id }) => selection.chosen.has(id) && ids.includes(id));
  const chosenIds = chosen.map(({ id }) => id);
  // What is thrown away as a folded card goes with all its versions.
  const thrown = groups.flatMap(({ first, others }) => {
    const folded = selection.chosen.has(first.id) && !unfolded.has(first.group);
    return folded ? [first.id, ...others.map(({ id }) => id)] : [];
  });
  const throwAway = () => {
    const gone = [...new Set([...thrown, ...chosenIds])];
    if (gone.length) toBin.mutate(gone, { onSuccess: () => selection.set([]) });
  };
  useKeys(
    ["a"],
    (event) => {
      event.preventDefault();
      selection.set(ids);
    },
    { ctrl: true },
  );
  useKeys(["escape"], () => selection.set([]));
  useKeys(["delete"], throwAway);
  useKeys(["/"], (event) => {
    if (within(event, "input")) return;
    event.preventDefault();
    finder.current?.focus();
  });
  useKeys(["z"], () => toBin.data && outOfBin.mutate(toBin.variables), { ctrl: true });

  const failure = contents.error ?? sets.error ?? toBin.error ?? outOfBin.error;
  const problem = failure instanceof Refused ? failure.message : undefined;
  const set = sets.data?.sets.find(({ id }) => id === setId);
  const empty = (contents.data ?? sets.data?.sets.length === 0) && groups.length === 0;

  return (
    <Flex {...drop.getRootProps()} height="100%" direction="column">
      <input {...drop.getInputProps({ "aria-label": "Picture files" })} />
      <PageHeader>
        <Brand to="/" title="Sequor">
          contact sheet
        </Brand>
        <Flex flex="1" align="center" gap="12px" px="20px" minWidth="0">
          <Text
            as="h1"
            fontSize="16px"
            fontWeight="600"
            truncate
            title={contents.data?.description}
          >
            {contents.data?.name}
          </Text>
          <Text color="inkSoft" whiteSpace="nowrap">
            {contents.data &&
              (shown.length < groups.length
                ? `${shown.length} of ${countWords(groups.length, "picture")}`
                : countWords(groups.length, "picture"))}
          </Text>
          {set && (
            <QuietButton
              title="Rename, describe, order, merge, archive or throw away this set"
              onClick={() => setWindow("set")}
            >
              The set…
            </QuietButton>
          )}
        </Flex>
        <Flex align="center" gap="8px" px="16px">
          {groups.length > 0 && (
            <>
              <Input
                ref={finder}
                size="xs"
                height="30px"
                width="92px"
                bg="sheet"
                borderColor="rule"
                aria-label="Find by name"
                placeholder="Find  /"
                value={words}
                onChange={(event) => setWords(event.target.value)}
                onKeyDown={(event) => {
                  if (event.key !== "Escape") return;
                  setWords("");
                  event.currentTarget.blur();
                }}
              />
              <Choice
                label="Which pictures are shown"
                value={filter}
                options={FILTERS}
                width="122px"
                onChoose={setFilter}
              />
              <Choice
                label="In which order"
                value={order}
                options={ORDERS}
                width="122px"
                onChoose={setOrder}
              />
              {chosen.length < ids.length && (
                <QuietButton height="30px" title="Ctrl A" onClick={() => selection.set(ids)}>
                  Choose all
                </QuietButton>
              )}
            </>
          )}
          <Button
            size="xs"
            height="30px"
            px="14px"
            bg="verdigris"
            color="onVerdigris"
            onClick={drop.open}
          >
            Add pictures
          </Button>
          <SchemeButton />
        </Flex>
      </PageHeader>
      {problem && problem !== dismissed && (
        <ProblemBar message={problem} onClose={() => setDismissed(problem)} />
      )}
      {setId !== undefined && chosen.length > 0 && (
        <ChosenBar
          setId={setId}
          ids={chosenIds}
          onExport={() => setWindow("export")}
          onInto={setWindow}
          onBin={throwAway}
          onNone={() => selection.set([])}
        />
      )}
      {toBin.data && chosen.length === 0 && (
        <Flex role="status" align="center" gap="12px" px="20px" py="8px" bg="paperDeep">
          <Text>{countWords(toBin.data.count, "version")} went into the bin.</Text>
          <QuietButton onClick={() => outOfBin.mutate(toBin.variables)}>Put back</QuietButton>
        </Flex>
      )}
      <Flex flex="1" minHeight="0">
        <SetList sets={sets.data?.sets ?? []} current={setId} onChanged={refresh} />
        <PictureGrid
          groups={shown}
          unfolded={unfolded}
          onUnfold={(group) =>
            setUnfolded((now) => {
              const next = new Set(now);
              if (!next.delete(group)) next.add(group);
              return next;
            })
          }
          selection={selection}
        >
          <IncomingList uploads={uploads} />
          {empty && uploads.incoming.length === 0 && <EmptySet onChoose={drop.open} />}
          {!empty && shown.length === 0 && groups.length > 0 && (
            <Text color="inkSoft">No picture of this set is like that.</Text>
          )}
        </PictureGrid>
      </Flex>
      {window === "export" && (
        <ExportSeveral
          pictures={chosen}
          onClose={() => setWindow(undefined)}
          onDone={() => void refresh()}
        />
      )}
      {window === "set" && set && (
        <SetWindow
          set={set}
          sets={sets.data?.sets ?? []}
          onClose={() => setWindow(undefined)}
          onChanged={refresh}
          onGone={(next) => {
            setWindow(undefined);
            void navigate(next === undefined ? "/" : `/sets/${next}`);
            void queries.invalidateQueries({ queryKey: ["sets"] });
          }}
        />
      )}
      {(window === "move" || window === "copy" || window === "split") && setId !== undefined && (
        <IntoWindow
          way={window}
          setId={setId}
          ids={chosenIds}
          sets={sets.data?.sets ?? []}
          onClose={() => setWindow(undefined)}
          onDone={() => {
            selection.set([]);
            void refresh();
          }}
        />
      )}
      {drop.isDragActive && (
        <Flex
          position="fixed"
          inset="0"
          bg="paper/85"
          borderWidth="3px"
          borderStyle="dashed"
          borderColor="verdigris"
          align="center"
          justify="center"
          zIndex="10"
        >
          <Text fontSize="20px" fontWeight="600">
            Let go to add the pictures to {contents.data?.name ?? FIRST_SET}
          </Text>
        </Flex>
      )}
    </Flex>
  );
}

function EmptySet({ onChoose }: { onChoose: () => void }) {
  return (
    <Flex
      direction="column"
      align="center"
      gap="12px"
      py="96px"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="rule"
      borderRadius="8px"
    >
      <Text fontSize="18px" fontWeight="600">
        Drop photographs or folders here
      </Text>
      <Text color="inkSoft">
        JPEG, PNG, TIFF or WebP, 8 or 16 bit. The originals are kept as they are.
      </Text>
      <Button size="sm" bg="verdigris" color="onVerdigris" onClick={onChoose}>
        Choose files
      </Button>
    </Flex>
  );
}
