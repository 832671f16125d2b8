/* The contact sheet: sets on the left, the pictures of one set on the right; files and folders can
   be dropped anywhere. */
import { Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { useDropzone } from "react-dropzone";
import { useParams } from "wouter";
import { t } from "../shared/words";
import { Refused } from "../api/refused";
import { useKeys } from "../shared/keys";
import { later, useAhead } from "../shared/later";
import { ProblemBar } from "../shared/ProblemBar";
import { useTitle } from "../shared/useTitle";
import { useRoom } from "../shared/useWindow";
import { arranged, AS_THEY_CAME, grouped } from "./arranging";
import { ComingCards } from "./ComingCards";
import { EmptySet, NoneLikeThat } from "./EmptySet";
import { LetGo } from "./LetGo";
import { PictureGrid } from "./PictureGrid";
import { SheetHeader } from "./SheetHeader";
import { SetList } from "./SetList";
import type { SheetWindow } from "./SheetWindows";
import { useHandedOver } from "./useHandedOver";
import { useSelection } from "./useSelection";
import { FIRST_SET, useSheet } from "./useSheet";

const BinnedBar = later(async () => (await import("./BinnedBar")).BinnedBar);
const ChosenBar = later(async () => (await import("./ChosenBar")).ChosenBar);
const IncomingList = later(async () => (await import("./IncomingList")).IncomingList);
const SheetWindows = later(async () => (await import("./SheetWindows")).SheetWindows);
/** Where one goes from here. */
const bench = { load: () => import("../bench/BenchPage") };

export function SheetPage() {
  useAhead(ChosenBar, IncomingList, bench, SheetWindows);
  const [dismissed, setDismissed] = useState<string>();
  const [arrangement, setArrangement] = useState(AS_THEY_CAME);
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set());
  const [listed, setListed] = useState(false);
  const { narrow } = useRoom();
  const [window, setWindow] = useState<SheetWindow>();
  const { sets, setId, contents, refresh, uploads, toBin, outOfBin, remarks, may } = useSheet(
    useParams().setId,
  );
  const lookOnly = !may("work");
  useHandedOver(uploads.add);
  const drop = useDropzone({
    noDrag: lookOnly,
    onDrop: (files) => void uploads.add(files),
    noClick: true,
    noKeyboard: true,
  });
  const all = contents.data?.pictures;
  const groups = useMemo(() => grouped(all ?? []), [all]);
  const shown = useMemo(() => arranged(groups, arrangement), [groups, arrangement]);
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
  useKeys(["z"], () => toBin.data && outOfBin.mutate(toBin.variables), { ctrl: true });

  useTitle(contents.data?.name);
  const failure = contents.error ?? sets.error ?? toBin.error ?? outOfBin.error;
  const problem = failure instanceof Refused ? failure.message : undefined;
  const set = sets.data?.sets.find(({ id }) => id === setId);
  const empty = (contents.data ?? sets.data?.sets.length === 0) && groups.length === 0;

  return (
    <Flex {...drop.getRootProps()} height="100%" direction="column">
      <SheetHeader
        set={contents.data}
        shown={shown.length}
        pictures={groups.length}
        onSet={set && may("own") ? () => setWindow("set") : undefined}
        arrangement={arrangement}
        onArrange={setArrangement}
        onChooseAll={chosen.length < ids.length ? () => selection.set(ids) : undefined}
        onAdd={lookOnly ? undefined : drop.open}
        listed={listed}
        onList={() => setListed(!listed)}
      />
      {problem && problem !== dismissed && (
        <ProblemBar message={problem} onClose={() => setDismissed(problem)} />
      )}
      {setId !== undefined && chosen.length > 0 && (
        <ChosenBar
          setId={setId}
          may={may}
          ids={chosenIds}
          onExport={() => setWindow("export")}
          onInto={setWindow}
          onBin={throwAway}
          onNone={() => selection.set([])}
        />
      )}
      {toBin.data && chosen.length === 0 && (
        <BinnedBar count={toBin.data.count} onBack={() => outOfBin.mutate(toBin.variables)} />
      )}
      <Flex flex="1" minHeight="0">
        {(!narrow || listed) && (
          <SetList
            sets={sets.data?.sets ?? []}
            current={setId}
            onChanged={refresh}
            onGone={() => setListed(false)}
          />
        )}
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
          remarks={remarks}
          lookOnly={lookOnly}
        >
          <input {...drop.getInputProps({ "aria-label": t("Picture files") })} />
          {uploads.incoming.length > 0 && <IncomingList uploads={uploads} />}
          {setId !== undefined && !contents.data && !contents.error && <ComingCards />}
          {empty && !lookOnly && uploads.incoming.length === 0 && <EmptySet onChoose={drop.open} />}
          {!empty && shown.length === 0 && groups.length > 0 && (
            <NoneLikeThat
              onAll={() => setArrangement({ ...arrangement, filter: "all", words: "" })}
            />
          )}
        </PictureGrid>
      </Flex>
      {window && (
        <SheetWindows
          window={window}
          onWindow={setWindow}
          setId={setId}
          sets={sets.data?.sets ?? []}
          opened={contents.data?.pictures.some(({ opened }) => opened) ?? false}
          chosen={chosen}
          onNone={() => selection.set([])}
          refresh={refresh}
        />
      )}
      {drop.isDragActive && <LetGo into={contents.data?.name ?? FIRST_SET} />}
    </Flex>
  );
}
