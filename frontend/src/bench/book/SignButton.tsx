/* The sign of a reading in its row; a press turns a level over into a plumb, and back. */
import { Button } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { SolvedReading } from "../../api/client";
import { useOptions } from "../../api/options";
import { KindSign } from "../stage/ReadingMark";
import type { Acts } from "../useBench";

export function SignButton({ acts, solved }: { acts: Acts; solved: SolvedReading }) {
  const other = useOptions().turned_over[solved.kind];
  if (!other) return <KindSign kind={solved.kind} />;
  return (
    <Button
      variant="plain"
      size="2xs"
      height="18px"
      minWidth="0"
      px="0"
      color={solved.kind}
      aria-label={t("Turn reading {number} over", { number: solved.number })}
      title={t("It is {other} in reality (X)", { other })}
      onClick={() => void acts.record({ do: "read_as", id: solved.id, kind: other })}
    >
      <KindSign kind={solved.kind} />
    </Button>
  );
}
