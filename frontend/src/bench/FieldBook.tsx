/* The field book: the readings as a surveyor writes them, and what they say together. */
import { Box, Button, Checkbox, Flex, Table, Text } from "@chakra-ui/react";
import type { Kind, SolvedReading } from "../api/client";
import { KIND_NAMES, KindSign } from "./ReadingMark";
import type { Bench } from "./useBench";

interface Props {
  bench: Bench;
  tool: Kind | undefined;
  onTool: (kind: Kind) => void;
  selected: string | undefined;
  onSelect: (id: string | undefined) => void;
  onDelete: (id: string) => void;
  fitting: boolean;
  onFitting: (fitting: boolean) => void;
  onFit: (id: string) => void;
}

export function FieldBook({ bench, tool, onTool, selected, onSelect, onDelete, fitting, onFitting, onFit }: Props) {
  const { readings, notes } = bench.solution;
  return (
    <Flex as="aside" aria-label="Field book" direction="column" width="book" flexShrink={0} borderRightWidth="1px" borderColor="rule" minHeight="0">
      <Text as="h2" fontSize="12px" fontWeight="600" color="inkSoft" px="16px" pt="12px" pb="6px">
        Field book
      </Text>
      <Flex gap="8px" px="16px" pb="10px">
        {(["level", "plumb"] as const).map((kind) => (
          <Button
            key={kind}
            size="xs"
            height="30px"
            flex="1"
            variant="outline"
            borderColor={tool === kind ? kind : "rule"}
            bg={tool === kind ? "highlight" : "sheet"}
            color={kind}
            aria-pressed={tool === kind}
            onClick={() => onTool(kind)}
            title={kind === "level" ? "A line that is level in reality" : "A line that is upright in reality"}
          >
            <KindSign kind={kind} /> {KIND_NAMES[kind]}
            <Text as="span" fontFamily="mono" color="inkSoft" fontSize="11px">
              {kind === "level" ? "L" : "P"}
            </Text>
          </Button>
        ))}
      </Flex>
      <Checkbox.Root size="sm" px="16px" pb="10px" checked={fitting} onCheckedChange={({ checked }) => onFitting(checked === true)}>
        <Checkbox.HiddenInput />
        <Checkbox.Control borderColor="rule" _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }} />
        <Checkbox.Label fontWeight="400" fontSize="12px">
          Fit new lines to the edge under them
        </Checkbox.Label>
      </Checkbox.Root>
      <Box flex="1" overflowY="auto" minHeight="0">
        {readings.length > 0 ? (
          <Table.Root size="sm" fontFamily="mono" fontSize="12px" unstyled width="100%" borderCollapse="collapse">
            <Table.Header>
              <Table.Row color="inkSoft" borderBottomWidth="1px" borderColor="rule">
                <Head label="" />
                <Head label="tilt as shot" />
                <Head label="length" />
                <Head label="left over" />
                <Head label="" />
              </Table.Row>
            </Table.Header>
            <Table.Body>
              {readings.map((reading) => (
                <Row key={reading.id} reading={reading} lit={reading.id === selected} onSelect={onSelect} onDelete={onDelete} onFit={onFit} />
              ))}
            </Table.Body>
          </Table.Root>
        ) : (
          <Text px="16px" py="14px" color="inkSoft" borderTopWidth="1px" borderColor="rule">
            No readings yet. A reading is a line along something that is level or upright in reality; from it Sequor works out how far the picture is tilted.
          </Text>
        )}
        {notes.map((note) => (
          <Box key={note.text} m="12px 16px 0" p="9px 11px" bg="sheet" borderWidth="1px" borderColor="rule" borderLeftWidth="3px" borderLeftColor="brick" borderRadius="4px" onMouseEnter={() => onSelect(note.readings[0])}>
            {note.text}
          </Box>
        ))}
      </Box>
    </Flex>
  );
}

function Head({ label }: { label: string }) {
  return (
    <Table.ColumnHeader fontWeight="500" fontSize="11.5px" fontFamily="body" textAlign="right" px="4px" py="4px" _first={{ pl: "16px" }} _last={{ pr: "10px" }}>
      {label}
    </Table.ColumnHeader>
  );
}

function Row({ reading, lit, onSelect, onDelete, onFit }: { reading: SolvedReading; lit: boolean } & Pick<Props, "onSelect" | "onDelete" | "onFit">) {
  const [size, direction] = reading.words.split(" ");
  const left = Math.abs(reading.residual_deg);
  return (
    <Table.Row
      bg={lit ? "highlight" : undefined}
      borderBottomWidth="1px"
      borderColor="ruleFaint"
      verticalAlign="top"
      onMouseEnter={() => onSelect(reading.id)}
      onClick={() => onSelect(reading.id)}
      aria-label={`Reading ${reading.number}`}
      aria-selected={lit}
    >
      <Cell>
        <Flex align="center" gap="5px" color={reading.kind} justify="flex-start">
          <KindSign kind={reading.kind} /> {reading.number}
        </Flex>
        <Button
          size="2xs"
          mt="5px"
          height="20px"
          minWidth="0"
          px="6px"
          variant="outline"
          borderColor={reading.fitted ? "verdigris" : "rule"}
          color={reading.fitted ? "verdigris" : "inkSoft"}
          fontFamily="body"
          aria-pressed={reading.fitted}
          aria-label={`Fit reading ${reading.number} to the edge`}
          title={reading.fitted ? `${reading.placed_words}; press for the line as drawn` : "placed by hand; press to fit it to the edge"}
          onClick={() => onFit(reading.id)}
        >
          fit
        </Button>
      </Cell>
      <Cell>
        {size}
        <Text color="inkSoft" fontSize="11.5px" lineHeight="1.3">
          {direction ?? "true"}
          <br />± {reading.sigma_deg.toFixed(2)}°
        </Text>
      </Cell>
      <Cell>{Math.round(reading.length_px).toLocaleString("en").replaceAll(",", " ")}</Cell>
      <Cell color={left > 3 * reading.sigma_deg && left > 0.05 ? "brick" : undefined}>{reading.residual_words.split(" ")[0]}</Cell>
      <Cell>
        <Button size="2xs" variant="ghost" color="inkSoft" minWidth="22px" height="22px" px="0" aria-label={`Delete reading ${reading.number}`} onClick={() => onDelete(reading.id)}>
          ×
        </Button>
      </Cell>
    </Table.Row>
  );
}

function Cell({ children, color }: { children: React.ReactNode; color?: string }) {
  return (
    <Table.Cell textAlign="right" px="4px" py="6px" color={color} _first={{ pl: "16px", textAlign: "left" }} _last={{ pr: "10px" }}>
      {children}
    </Table.Cell>
  );
}
