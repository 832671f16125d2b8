/* At the foot of the stage: what moves the end that a finger let go, or one line of words. */
import type { Acts } from "../useBench";
import type { Desk } from "../useDesk";
import { EndPad, EndPlaced } from "./EndPad";
import { StageHint } from "./StageHint";
import type { useHand } from "./useHand";

interface Props {
  desk: Desk;
  asShot: boolean;
  /** Nothing has been read yet. */
  empty: boolean;
  hand: ReturnType<typeof useHand>["foot"];
  acts: Acts;
}

export function StageFoot({ desk, asShot, empty, hand, acts }: Props) {
  const { touched, leaveTouched, endPlaced, placed } = hand;
  if (touched)
    return (
      <EndPad
        end={touched}
        onNudge={(edit) => acts.recordSoon(edit, { still: true })}
        onDone={leaveTouched}
      />
    );
  return (
    <>
      {endPlaced && <EndPlaced onEnd={endPlaced} />}
      {!desk.bare && <StageHint desk={desk} asShot={asShot} empty={empty} placed={placed} />}
    </>
  );
}
