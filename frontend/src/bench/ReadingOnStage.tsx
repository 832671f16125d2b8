/* A reading on the picture with its ends, which can be dragged and moved by key. It is drawn anew only when it or the view of it changes. */
import { chakra } from "@chakra-ui/react";
import type { Reading } from "../api/client";
import type { Point } from "./geometry";
import { ReadingLine } from "./ReadingMark";
import { handPoints } from "./recipes";

const Handle = chakra("circle");

/** The end of a reading that is moved by key. */
export interface KeyedEnd {
  id: string;
  end: number;
}

interface Props {
  reading: Reading;
  number: number;
  toStage: (point: Point) => Point;
  lit: boolean;
  onSelect: (id: string) => void;
  onKeyed: (end: KeyedEnd | undefined) => void;
}

export function ReadingOnStage({ reading, number, toStage, lit, onSelect, onKeyed }: Props) {
  const points = reading.points.map((point) => toStage(point as Point));
  const line = `M${points.map((p) => p.join(",")).join("L")}`;
  return (
    <g>
      <path d={line} stroke="transparent" strokeWidth="16" data-line={reading.id} />
      <ReadingLine kind={reading.kind} points={points} lit={lit} off={!reading.active} />
      {handPoints(reading).map((point, end) => {
        const [x, y] = toStage(point);
        return (
          <Handle
            key={end}
            id={`end-${reading.id}-${end}`}
            data-reading={reading.id}
            data-end={end}
            role="button"
            tabIndex={0}
            aria-label={`${reading.kind === "trace" ? "Point" : "End"} ${end + 1} of reading ${number}`}
            cx={x}
            cy={y}
            r={lit ? 7 : 5.5}
            fill="onPicture"
            stroke={`${reading.kind}Deep`}
            strokeWidth="2"
            cursor="move"
            onFocus={(event) => {
              onSelect(reading.id);
              if (event.currentTarget.matches(":focus-visible")) onKeyed({ id: reading.id, end });
            }}
            onKeyDown={() => onKeyed({ id: reading.id, end })}
            onBlur={() => onKeyed(undefined)}
            _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
          />
        );
      })}
    </g>
  );
}
