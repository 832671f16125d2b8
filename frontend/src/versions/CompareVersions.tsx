/* Two versions of a picture against each other. */
import { t } from "../shared/words";
import type { Version } from "../api/client";
import { shotOf, useEntry } from "../history/useEntry";
import { CompareWindow } from "../picture/CompareWindow";

interface Props {
  one: Version;
  other: Version;
  onClose: () => void;
}

export function CompareVersions({ one, other, onClose }: Props) {
  return (
    <CompareWindow
      title={t("{name} against {name2}", { name: one.name, name2: other.name })}
      first={useNamed(one)}
      second={useNamed(other)}
      onClose={onClose}
    />
  );
}

function useNamed({ id, entry_id: entry, name }: Version) {
  const shown = useEntry(id, entry);
  return shown && { shot: shotOf(shown), name, pane: name };
}
