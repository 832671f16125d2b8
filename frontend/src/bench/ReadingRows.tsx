/* One reading in the field book: its line in the table, and, when it is lit, everything that can be set about it. */
import { Box, Button, Flex, Input, Table, Text, VisuallyHidden } from "@chakra-ui/react";
import { useRef, useState } from "react";
import type { Reading, SolvedReading } from "../api/client";
import type { Point } from "./geometry";
import { KindSign } from "./ReadingMark";
import { handPoints, withChanged, withPoint } from "./recipes";
import type { Acts, Bench } from "./useBench";

type File = Bench["state"]["file"];

interface Props {
  acts: Acts;
  file: File;
  reading: Reading | undefined;
  solved: SolvedReading;
  lit: boolean;
  onSelect: (id: string | undefined) => void;
  onDelete: (id: string) => void;
  onFit: (id: string) => Promise<void>;
}

export function ReadingRows({ acts, file, reading, solved, lit, onSelect, onDelete, onFit }: Props) {
  const [open, setOpen] = useState(false);
  const [size, direction] = solved.words.split(" ");
  const left = Math.abs(solved.residual_deg);
  if (!reading) return null;
  const sagged = solved.kind === "trace" && !reading.serves_as;
  const about = [reading.active ? "" : "off", reading.hidden ? "hidden" : "", reading.name || (sagged ? "bend from chord" : "")].filter(Boolean).join(", ");
  const quiet = reading.active ? undefined : 0.5;
  return (
    <>
      <Table.Row
        bg={lit ? "highlight" : undefined}
        borderBottomWidth={open ? "0" : "1px"}
        borderColor="ruleFaint"
        verticalAlign="top"
        onMouseEnter={() => onSelect(solved.id)}
        onClick={() => onSelect(solved.id)}
        aria-label={`Reading ${solved.number}`}
        aria-selected={lit}
      >
        <Cell>
          <Flex align="center" gap="7px">
            <Button
              variant="plain"
              size="2xs"
              height="18px"
              px="0"
              gap="5px"
              fontFamily="mono"
              fontSize="12px"
              color={solved.kind}
              opacity={quiet}
              aria-expanded={open}
              aria-label={`Details of reading ${solved.number}`}
              title="Name, weight, ends, on and off"
              onClick={() => setOpen(!open)}
            >
              <KindSign kind={solved.kind} /> {solved.number}
              <Text as="span" color="inkSoft" fontSize="10px">
                {open ? "▴" : "▾"}
              </Text>
            </Button>
            <Toggle small on={solved.fitted} label={`Fit reading ${solved.number} to the edge`} title={solved.fitted ? `${solved.placed_words}; press for the line as drawn` : "placed by hand; press to fit it to the edge"} onClick={() => void onFit(solved.id)}>
              fit
            </Toggle>
          </Flex>
          <Text fontFamily="body" fontSize="11.5px" lineHeight="1.3" color="inkSoft" mt="3px" width="98px" truncate title={about}>
            {about}
          </Text>
        </Cell>
        <Cell faint={quiet}>
          {sagged && (
            <Text as="span" whiteSpace="nowrap" title="How far it bends from its chord, as shot">
              {(solved.sag_before_px ?? 0).toFixed(1)} px
            </Text>
          )}
          <Text as="span" whiteSpace="nowrap" hidden={sagged}>
            {size}
            <span aria-hidden>{direction ? (direction === "clockwise" ? " ↻" : " ↺") : ""}</span>
            <VisuallyHidden> {direction}</VisuallyHidden>
          </Text>
          <Text color="inkSoft" fontSize="11.5px" lineHeight="1.3" whiteSpace="nowrap">
            ± {sagged ? reading.sigma_px.toFixed(1) : solved.sigma_deg < 0.01 ? "0.01" : solved.sigma_deg.toFixed(2)}
            {sagged ? " px" : "°"}
          </Text>
          <Worth share={solved.worth} />
        </Cell>
        <Cell faint={quiet}>
          <Text as="span" whiteSpace="nowrap">
            {Math.round(solved.length_px).toLocaleString("en").replaceAll(",", "\u2009")}
          </Text>
        </Cell>
        <Cell color={solved.outlier || (sagged ? (solved.sag_px ?? 0) > 2 : left > 3 * solved.sigma_deg && left > 0.05) ? "brick" : undefined}>{sagged ? `${(solved.sag_px ?? 0).toFixed(1)} px` : solved.residual_words.split(" ")[0]}</Cell>
        <Cell>
          <Button size="2xs" variant="ghost" color="inkSoft" minWidth="22px" height="22px" px="0" aria-label={`Delete reading ${solved.number}`} onClick={() => onDelete(solved.id)}>
            ×
          </Button>
        </Cell>
      </Table.Row>
      {open && (
        <Table.Row bg={lit ? "highlight" : undefined} borderBottomWidth="1px" borderColor="ruleFaint" onMouseEnter={() => onSelect(solved.id)}>
          <Table.Cell colSpan={5} px="16px" pb="8px" pt="0">
            <Details acts={acts} file={file} reading={reading} solved={solved} />
          </Table.Cell>
        </Table.Row>
      )}
    </>
  );
}

function Details({ acts, file, reading, solved }: { acts: Acts; file: File; reading: Reading; solved: SolvedReading }) {
  const n = solved.number;
  const change = (changed: Partial<Reading>, what: string): undefined => {
    // What was entered a moment ago may not be in the reading shown here yet.
    const now = acts.latest().readings.find((other) => other.id === reading.id) ?? reading;
    void acts.commit(withChanged(acts.latest(), { ...now, ...changed }), what);
  };
  const end = (place: number) => {
    const submit = (text: string) => {
      const numbers = text.split(/[,;\s]+/).map(Number);
      const { width, height } = file;
      if (numbers.length !== 2 || !numbers.every(Number.isFinite)) return "Write x, y in source pixels.";
      const [x, y] = numbers as Point;
      if (x < 0 || y < 0 || x > width || y > height) return `The picture is ${width} × ${height} px.`;
      void acts.commit(withPoint(acts.latest(), reading.id, place, [x, y], Math.min(reading.sigma_px, 1)), "end typed");
      return undefined;
    };
    return <Typed label={`Position of end ${place + 1} of reading ${n}`} value={(handPoints(reading)[place] as Point).map((v) => v.toFixed(1)).join(", ")} onEnter={submit} flex="1" />;
  };
  return (
    <Flex direction="column" gap="5px" fontFamily="body" fontSize="12px" width="266px">
      <Flex gap="5px">
        <Typed label={`Name of reading ${n}`} placeholder="name" value={reading.name} onEnter={(name) => change({ name: name.trim().slice(0, 80) }, "reading named")} flex="1" mono={false} />
        <Text alignSelf="center" color="inkSoft">
          weight
        </Text>
        <Typed
          label={`Weight of reading ${n}`}
          value={String(reading.weight)}
          width="46px"
          onEnter={(text) => {
            const weight = Number(text.replace(",", "."));
            if (!(weight > 0 && weight <= 100)) return "A weight lies above 0 and is at most 100.";
            return change({ weight }, "reading weighted");
          }}
        />
      </Flex>
      <Flex gap="5px">
        {end(0)}
        {end(handPoints(reading).length - 1)}
      </Flex>
      <Flex gap="5px">
        <Toggle on={reading.active} label={`Use reading ${n}`} onClick={() => change({ active: !reading.active }, reading.active ? "reading switched off" : "reading switched on")}>
          {reading.active ? "on" : "off"}
        </Toggle>
        <Toggle on={!reading.hidden} label={`Show reading ${n}`} onClick={() => change({ hidden: !reading.hidden }, reading.hidden ? "reading shown" : "reading hidden")}>
          {reading.hidden ? "hidden" : "shown"}
        </Toggle>
        {reading.kind === "trace" &&
          (["level", "plumb"] as const).map((direction) => (
            <Toggle key={direction} on={reading.serves_as === direction} label={`Reading ${n} is ${direction} too`} title={`What the trace follows is ${direction} in reality`} onClick={() => change({ serves_as: reading.serves_as === direction ? null : direction }, `trace ${direction}`)}>
              {direction}
            </Toggle>
          ))}
      </Flex>
      <Text color="inkSoft" lineHeight="1.3">
        {solved.placed_words}
        {solved.sag_px !== null && `, sag ${(solved.sag_before_px ?? 0).toFixed(1)} px as shot, ${solved.sag_px.toFixed(1)} px now`}
      </Text>
    </Flex>
  );
}

/** A field that is entered with Enter or by leaving it; what is wrong with it is said below. */
function Typed({ label, value, onEnter, mono = true, ...rest }: { label: string; value: string; onEnter: (text: string) => string | undefined; mono?: boolean; placeholder?: string; width?: string; flex?: string }) {
  const [text, setText] = useState<string>();
  const [wrong, setWrong] = useState<string>();
  const dropped = useRef(false);
  const enter = () => {
    if (dropped.current || text === undefined || text === value) return setText(undefined);
    const problem = onEnter(text);
    setWrong(problem);
    if (!problem) setText(undefined);
  };
  return (
    <Box flex={rest.flex} width={rest.width} minWidth="0">
      <Input
        aria-label={label}
        placeholder={rest.placeholder}
        size="2xs"
        height="23px"
        px="6px"
        fontSize="11.5px"
        fontFamily={mono ? "mono" : "body"}
        bg="sheet"
        borderColor={wrong ? "brick" : "rule"}
        autoComplete="off"
        value={text ?? value}
        onChange={(event) => setText(event.target.value)}
        onBlur={enter}
        onKeyDown={(event) => {
          if (event.key === "Enter") enter();
          if (event.key !== "Escape") return;
          setText(undefined);
          setWrong(undefined);
          dropped.current = true; // leaving the field must not enter what was dropped
          event.currentTarget.blur();
          dropped.current = false;
        }}
      />
      {wrong && (
        <Text role="alert" color="brick" fontSize="11.5px">
          {wrong}
        </Text>
      )}
    </Box>
  );
}

function Toggle({ on, label, title, small, onClick, children }: { small?: boolean; on: boolean; label: string; title?: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <Button
      size="2xs"
      height={small ? "18px" : "22px"}
      minWidth="0"
      px={small ? "5px" : "7px"}
      fontSize={small ? "11px" : undefined}
      variant="outline"
      bg="sheet"
      fontWeight="500"
      borderColor={on ? "verdigris" : "rule"}
      color={on ? "verdigris" : "inkSoft"}
      aria-pressed={on}
      aria-label={label}
      title={title}
      onClick={onClick}
    >
      {children}
    </Button>
  );
}

/** How much a reading is worth: a short line shows at once that it says little. */
function Worth({ share }: { share: number }) {
  return (
    <Box role="img" aria-label={`worth ${Math.round(share * 100)} of 100`} title="How much this reading says: long and sharp fills the bar, short and rough leaves it empty" height="3px" mt="3px" ml="auto" width="56px" bg="rule" borderRadius="2px" overflow="hidden">
      <Box height="100%" width={`${share * 100}%`} bg={share < 0.3 ? "brick" : "verdigris"} />
    </Box>
  );
}

function Cell({ children, color, faint }: { children: React.ReactNode; color?: string; faint?: number }) {
  return (
    <Table.Cell textAlign="right" px="3px" py="6px" color={color} opacity={faint} _first={{ pl: "16px", textAlign: "left" }} _last={{ pr: "8px" }}>
      {children}
    </Table.Cell>
  );
}
