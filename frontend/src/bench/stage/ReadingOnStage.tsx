/* A reading on the picture with its ends, which can be dragged and moved by key. It is drawn anew
   only when it or the view of it changes. */
import { chakra } from "@chakra-ui/react";
import type { Kind } from "../../api/client";
import { useOptions } from "../../api/options";
import { between, line, type Point } from "../../picture/geometry";
import { ReadingLine } from "./ReadingMark";

const Handle = chakra("circle");

/** The end of a reading that is moved by key. */
export interface KeyedEnd {
  id: string;
  end: number;
}

/**
 * A reading as the stage draws it, in stage pixels: all its points, and those that can be taken in
 * hand.
 */
export interface DrawnReading {
  id: string;
  number: number;
  kind: Kind;
  active: boolean;
  points: Point[];
  handles: Point[];
}

interface Props {
  reading: DrawnReading;
  lit: boolean;
  onSelect: (id: string) => void;
  onKeyed: (end: KeyedEnd | undefined) => void;
  /** Make a level of a plumb, a plumb of a level. */
  onTurnOver: (id: string) => void;
}

export function ReadingOnStage({
  reading: { id, number, kind, active, points, handles },
  lit,
  onSelect,
  onKeyed,
  onTurnOver,
}: Props) {
  const other = useOptions().turned_over[kind];
  const [mx, my] = between(points[0] as Point, points.at(-1) as Point, 0.5);
  return (
    <g>
      <path d={line(points)} stroke="transparent" strokeWidth="16" data-line={id} cursor="grab" />
      <ReadingLine kind={kind} points={points} lit={lit} off={!active} />
      {other && (
        <Handle
          role="button"
          aria-label={`Read reading ${number} as ${other}`}
          cx={mx}
          cy={my}
          r="11"
          fill="transparent"
          cursor="pointer"
          onPointerDown={(event) => event.stopPropagation()}
          onClick={() => onTurnOver(id)}
        >
          <title>{`A ${kind}; press for a ${other} (X)`}</title>
        </Handle>
      )}
      {handles.map(([x, y], end) => (
        <Handle
          key={end}
          id={`end-${id}-${end}`}
          data-reading={id}
          data-end={end}
          role="button"
          tabIndex={0}
          aria-label={`${kind === "trace" || handles.length > 2 ? "Point" : "End"} ${end + 1} of reading ${number}`}
          cx={x}
          cy={y}
          r={lit ? 7 : 5.5}
          fill="onPicture"
          stroke={`${kind}Deep`}
          strokeWidth="2"
          cursor="move"
          onFocus={(event) => {
            onSelect(id);
            if (event.currentTarget.matches(":focus-visible")) onKeyed({ id, end });
          }}
          onKeyDown={() => onKeyed({ id, end })}
          onBlur={() => onKeyed(undefined)}
          _focusVisible={{ outline: "none", stroke: "brick", strokeWidth: 4 }}
        />
      ))}
    </g>
  );
}
