/* What is proposed against what holds. */
import { t } from "../../shared/words";
import type { Edit } from "../../api/client";
import { CompareWindow } from "../../picture/CompareWindow";
import type { Bench } from "../useBench";
import { useDrafts } from "../useDrafts";

interface Props {
  bench: Bench;
  take: Edit;
  onClose: () => void;
}

export function CompareProposed({ bench, take, onClose }: Props) {
  const { state } = bench;
  const [draft] = useDrafts(bench, [take]);
  const proposed = draft?.data;
  return (
    <CompareWindow
      title={t("What is proposed against what holds")}
      first={{ shot: { state, shown: state.solution }, name: t("holds now"), pane: t("Holds now") }}
      second={
        proposed && {
          shot: { state, shown: proposed.solution },
          name: t("as proposed"),
          pane: t("As proposed"),
        }
      }
      onClose={onClose}
    />
  );
}
