/* Whether a measured axis is taken out of the picture or stays in it: one press changes it, one
   more leaves it to the readings again. */
import { Button } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Axis } from "../../api/client";
import type { Acts, Bench } from "../useBench";

interface Props {
  axis: Axis;
  name: string;
  solved: Bench["solution"]["stance"][Axis];
  acts: Acts;
}

export function StaysButton({ axis, name, solved, acts }: Props) {
  if (solved.measured_deg == null || solved.held) return null;
  const { left_in: stays, decided } = solved;
  const words = stays ? t("left in") : t("out");
  const leave = decided ? null : !stays;
  const now = stays
    ? t("The {axis} is measured and stays in the picture", { axis: t(axis) })
    : t("The {axis} is taken out", { axis: t(axis) });
  const next = decided
    ? t("press to let Sequor choose again")
    : stays
      ? t("press to take it out")
      : t("press to leave it in");
  return (
    <Button
      size="2xs"
      height="18px"
      px="5px"
      fontSize="11px"
      flexShrink={0}
      variant="outline"
      fontWeight="500"
      borderColor={decided ? "verdigris" : "rule"}
      bg={decided ? "highlight" : "sheet"}
      color={decided ? "verdigris" : "inkSoft"}
      aria-pressed={stays}
      aria-label={t("{name} stays in the picture: {words}", { name, words })}
      title={`${now}${decided ? t(", as you decided") : t(", by the readings")}; ${next}`}
      onClick={() => void acts.record({ do: "leave_axis_in", axis, leave })}
    >
      {words}
    </Button>
  );
}
