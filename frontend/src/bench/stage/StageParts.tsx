/* Small things on the stage: the angle in the hand, words, a button, the veil. */
import { Button, Text, type TextProps } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { clamp, line, type Point } from "../../picture/geometry";

/** The angle beside the end in the hand, never under it. */
export function Readout({
  point: [x, y],
  text,
  size,
}: {
  point: Point;
  text: string;
  size: { width: number; height: number };
}) {
  const width = 24 + text.length * 7.81;
  const left = clamp(x - width / 2, 4, size.width - width - 4);
  return (
    <g
      transform={`translate(${left} ${y + 60 < size.height ? y + 26 : y - 60})`}
      pointerEvents="none"
    >
      <rect width={width} height="28" rx="4" fill="#1d2a38" />
      <text x="12" y="19" fill="#fffdf8" fontSize="13" fontFamily="IBM Plex Mono, monospace">
        {text}
      </text>
    </g>
  );
}

/** What is to be said over the picture, at its foot. */
export function StageWords(props: TextProps) {
  return (
    <Text
      position="absolute"
      zIndex="1"
      bottom="14px"
      left="50%"
      transform="translateX(-50%)"
      bg="inkOnPicture/85"
      color="onPicture"
      px="14px"
      py="7px"
      borderRadius="4px"
      whiteSpace="nowrap"
      pointerEvents="none"
      role="status"
      {...props}
    />
  );
}

interface ButtonProps {
  onClick: () => void;
  label: string;
  hint?: string;
  title?: string;
  name?: string;
}

export function StageButton({ onClick, label, hint: key, title, name }: ButtonProps) {
  return (
    <Button
      size="xs"
      height="28px"
      px="10px"
      bg="sheet"
      color="ink"
      borderWidth="1px"
      borderColor="rule"
      onClick={onClick}
      onPointerDown={(event) => event.stopPropagation()}
      title={title ?? (key ? t("Key {key}", { key }) : undefined)}
      aria-label={name}
      fontWeight="500"
    >
      {label}
      {key && (
        <Text as="span" fontFamily="mono" fontWeight="400" color="inkSoft" fontSize="11px">
          {key}
        </Text>
      )}
    </Button>
  );
}

interface VeilProps {
  /** The outline of the frame, and of it without its margin where it has one, as paths. */
  frame: string;
  face?: string;
  size: { width: number; height: number };
  dim: number;
  dashed: boolean;
  /** Whether the frame is drawn, too. */
  outlined: boolean;
  /** Whether the hand turns the picture by dragging there. */
  turns: boolean;
}

/** What lies outside the frame, veiled, and the frame's outline. */
export function FrameVeil({ frame, face, size, dim, dashed, outlined, turns }: VeilProps) {
  return (
    <g pointerEvents="none">
      <path
        d={`M0,0H${size.width}V${size.height}H0Z${frame}`}
        fillRule="evenodd"
        fill="var(--stage)"
        fillOpacity={dim}
        pointerEvents={turns ? "fill" : undefined}
        cursor={turns ? "grab" : undefined}
        data-outside={turns || undefined}
      />
      {outlined && (
        <path
          d={frame}
          stroke="#fffdf8"
          strokeWidth={face ? 1 : 1.5}
          strokeDasharray={dashed ? "6 5" : undefined}
        />
      )}
      {outlined && face && (
        <g data-face>
          <path d={face} stroke="#000" strokeOpacity=".45" strokeWidth="3" />
          <path d={face} stroke="#fffdf8" strokeWidth="1.5" />
        </g>
      )}
    </g>
  );
}

/** The points of a trace, or the corners of a rectangle, that were clicked so far. */
export function ClickedPoints({ points }: { points: Point[] }) {
  if (!points.length) return null;
  return (
    <g pointerEvents="none">
      <path d={line(points)} stroke="#fffdf8" strokeWidth="2" strokeDasharray="5 4" />
      {points.map(([x, y], index) => (
        <circle key={index} cx={x} cy={y} r="5.5" fill="#fffdf8" stroke="#1d2a38" strokeWidth="2" />
      ))}
    </g>
  );
}
