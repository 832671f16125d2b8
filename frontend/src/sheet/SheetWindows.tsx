/* The windows of the contact sheet: exports of several, the set, into another set. */
import { useQueryClient } from "@tanstack/react-query";
import { navigate } from "wouter/use-browser-location";
import { useMe } from "../api/me";
import type { PictureSummary, SetSummary } from "../api/client";
import { ExportSeveral } from "./ExportSeveral";
import { IntoWindow, type IntoWay } from "./IntoWindow";
import { SetWindow } from "./SetWindow";

export type SheetWindow = "export" | "set" | IntoWay;

interface Props {
  window: SheetWindow;
  onWindow: (window: SheetWindow | undefined) => void;
  setId: number | undefined;
  sets: SetSummary[];
  /** Whether pictures of the set stay where they lie. */
  opened: boolean;
  chosen: PictureSummary[];
  onNone: () => void;
  refresh: () => Promise<void>;
}

export function SheetWindows(props: Props) {
  const { window, onWindow, setId, sets, opened, chosen, onNone, refresh } = props;
  const queries = useQueryClient();
  const me = useMe();
  const set = sets.find(({ id }) => id === setId);
  return (
    <>
      {window === "export" && (
        <ExportSeveral
          pictures={chosen}
          onClose={() => onWindow(undefined)}
          onDone={() => void refresh()}
        />
      )}
      {window === "set" && set && (
        <SetWindow
          set={set}
          sets={sets}
          opened={opened}
          shareable={me.served}
          onClose={() => onWindow(undefined)}
          onChanged={refresh}
          onGone={(next) => {
            onWindow(undefined);
            navigate(next === undefined ? "/" : `/sets/${next}`);
            void queries.invalidateQueries({ queryKey: ["sets"] });
          }}
        />
      )}
      {(window === "move" || window === "copy" || window === "split") && setId !== undefined && (
        <IntoWindow
          way={window}
          setId={setId}
          ids={chosen.map(({ id }) => id)}
          sets={sets}
          onClose={() => onWindow(undefined)}
          onDone={() => {
            onNone();
            void refresh();
          }}
        />
      )}
    </>
  );
}
