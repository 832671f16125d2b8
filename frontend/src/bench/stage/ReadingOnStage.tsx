/* A reading on the picture with its ends, which can be dragged and moved by key. It is drawn anew
   only when it or the view of it changes. */
import { chakra } from "@chakra-ui/react";
import { t } from "../../shared/words";
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
        <g transform={`translate(${mx} ${my})`}>
          <MiddleHandle id={id} number={number} kind={kind} other={other} onTurnOver={onTurnOver} />
        </g>
      )}
      {handles.map(([x, y], end) => (
        <g key={end} transform={`translate(${x} ${y})`}>
          <EndHandle
            id={id}
            end={end}
            kind={kind}
            label={
              kind === "trace" || handles.length > 2
                ? t("Point {end} of reading {number}", { end: end + 1, number })
                : t("End {end} of reading {number}", { end: end + 1, number })
            }
            lit={lit}
            onSelect={onSelect}
            onKeyed={onKeyed}
          />
        </g>
      ))}
    </g>
  );
}

interface MiddleProps extends Pick<Props, "onTurnOver"> {
  id: string;
  number: number;
  kind: Kind;
  other: Kind;
}

/** The middle of a reading that can be read otherwise, at its own origin as well. */
function MiddleHandle({ id, number, kind, other, onTurnOver }: MiddleProps) {
  return (
    <Handle
      role="button"
      aria-label={t("Read reading {number} as {other}", { number, other: t(other) })}
      r="11"
      fill="transparent"
      cursor="pointer"
      onPointerDown={(event) => event.stopPropagation()}
      onClick={() => onTurnOver(id)}
    >
      <title>{t("A {kind}; press for a {other} (X)", { kind: t(kind), other: t(other) })}</title>
    </Handle>
  );
}

interface EndProps extends Pick<Props, "lit" | "onSelect" | "onKeyed"> {
  id: string;
  end: number;
  kind: Kind;
  label: string;
}

/** An end at its own origin: where that lies is no concern of it, so that it is not drawn anew
    while the picture turns. */
function EndHandle({ id, end, kind, label, lit, onSelect, onKeyed }: EndProps) {
  return (
    <Handle
      id={`end-${id}-${end}`}
      data-reading={id}
      data-end={end}
      role="button"
      tabIndex={0}
      aria-label={label}
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
  );
}
