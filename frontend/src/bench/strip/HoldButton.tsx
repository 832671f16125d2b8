/* Hold an axis where it is, so that readings do not move it, or let it go. */
import { Button } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Axis } from "../../api/client";
import type { Acts } from "../useBench";

export function HoldButton({ acts, axis, held }: { acts: Acts; axis: Axis; held: boolean }) {
  const toggle = () =>
    void acts.record(held ? { do: "free_axis", axis } : { do: "hold_axis", axis });
  return (
    <Button
      size="2xs"
      height="22px"
      px="7px"
      variant="outline"
      fontWeight="500"
      borderColor={held ? "verdigris" : "rule"}
      bg={held ? "highlight" : "sheet"}
      color={held ? "verdigris" : "inkSoft"}
      aria-pressed={held}
      aria-label={t("Hold the {axis}", { axis: t(axis) })}
      title={
        held
          ? t("The {axis} is held; press to let the readings move it", { axis: t(axis) })
          : t("Hold the {axis} where it is, whatever the readings say", { axis: t(axis) })
      }
      onClick={toggle}
    >
      {held ? t("held") : t("hold")}
    </Button>
  );
}
