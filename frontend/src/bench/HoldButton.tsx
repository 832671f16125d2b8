/* Hold an axis where it is, so that readings do not move it, or let it go. */
import { Button } from "@chakra-ui/react";
import type { Axis } from "../api/client";
import { withHold } from "./recipes";
import type { Bench } from "./useBench";

export function HoldButton({ bench, axis }: { bench: Bench; axis: Axis }) {
  const { held, as_shot_deg: now } = bench.solution.stance[axis];
  const toggle = () => void bench.commit(withHold(bench.latest(), axis, held ? null : now), held ? `${axis} let go` : `${axis} held`);
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
      aria-label={`Hold the ${axis}`}
      title={held ? `The ${axis} is held; press to let the readings move it` : `Hold the ${axis} where it is, whatever the readings say`}
      onClick={toggle}
    >
      {held ? "held" : "hold"}
    </Button>
  );
}
