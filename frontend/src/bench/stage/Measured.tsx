/* What has been measured, drawn over the picture: readings in ink and in pencil, where the next
   would tell most, the angle that something should have, the figure beside the hand. */
import type { ProposalOut } from "../../api/client";
import { PencilLines } from "../../picture/PencilLines";
import type { Point } from "../../picture/geometry";
import type { Size } from "../../picture/useSize";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import type { Drawn } from "./drawn";
import { NextLine } from "./NextLine";
import { ReadingOnStage, type KeyedEnd } from "./ReadingOnStage";
import { ClickedPoints, Readout } from "./StageParts";
import type { View } from "./useView";
import { WantedAngle } from "./WantedAngle";

interface Props {
  bench: Bench;
  desk: Desk;
  view: View;
  size: Size;
  readings: Drawn[];
  proposed: ProposalOut | undefined;
  /** The points of a reading that were clicked so far, in the picture. */
  clicked: Point[];
  /** What is said beside the end in the hand. */
  readout: { point: Point; text: string } | undefined;
  onKeyed: (end: KeyedEnd | undefined) => void;
}

export function Measured({
  bench,
  desk,
  view,
  size,
  readings,
  proposed,
  clicked,
  readout,
  onKeyed,
}: Props) {
  const { selected } = desk;
  const asShot = view.seen === "as_shot";
  const measuring = desk.step === "measure";
  const next = bench.solution.next_line;
  const angled = new Set(
    bench.recipe.readings.filter(({ becomes }) => becomes === "angle").map(({ id }) => id),
  );
  const pointed = readings.find(({ id }) => id === selected && angled.has(id));
  return (
    <>
      {readings.map((reading) => (
        <ReadingOnStage
          key={reading.id}
          reading={reading}
          lit={reading.id === selected}
          onSelect={desk.select}
          onKeyed={onKeyed}
          onTurnOver={desk.turnOver}
        />
      ))}
      {measuring && proposed && (
        <PencilLines
          found={proposed}
          asShot={asShot}
          lay={view.lay}
          lit={selected}
          previewed={bench.solution.readings}
        />
      )}
      {measuring && !proposed && next && !asShot && <NextLine next={next} view={view} />}
      <ClickedPoints points={clicked.map(view.toStage)} />
      {pointed && !asShot && (
        <WantedAngle
          bench={bench}
          view={view}
          id={pointed.id}
          number={pointed.number}
          ends={[pointed.points[0] as Point, pointed.points.at(-1) as Point]}
        />
      )}
      {readout && <Readout point={readout.point} text={readout.text} size={size} />}
    </>
  );
}
