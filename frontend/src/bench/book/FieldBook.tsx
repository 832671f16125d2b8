/* The field book: the readings as a surveyor writes them, what they say together, and how the
   camera stood. */
import { Box, Button, Checkbox, Flex, Grid, Table, Text } from "@chakra-ui/react";
import type { NoteWords } from "../../api/client";
import { KIND_NAMES, KindSign } from "../stage/ReadingMark";
import type { Tool } from "../stage/useHand";
import type { Acts, Bench } from "../useBench";
import { PencilPart, ReadPart } from "../pencil/PencilPart";
import type { Pencil } from "../pencil/usePencil";
import { VersionTabs } from "../../versions/VersionTabs";
import { BendLines } from "./BendLines";
import { ReadingRows } from "./ReadingRows";
import { StanceWords } from "./StanceWords";

const TOOLS: { tool: Tool; key: string; name: string; title: string }[] = [
  { tool: "level", key: "L", name: KIND_NAMES.level, title: "A line that is level in reality" },
  {
    tool: "plumb",
    key: "P",
    name: KIND_NAMES.plumb,
    title: "A line that is upright in reality, or the centre line of something symmetrical",
  },
  {
    tool: "horizon",
    key: "H",
    name: KIND_NAMES.horizon,
    title: "The line of eye level itself: open water, a far plain. It says how the camera stood",
  },
  {
    tool: "rectangle",
    key: "R",
    name: "Rectangle",
    title: "The four corners of a window, a mirror, a picture frame that faces the camera",
  },
  {
    tool: "trace",
    key: "T",
    name: KIND_NAMES.trace,
    title:
      "Points along something that is straight in reality and looks bent: says how the lens bows",
  },
  {
    tool: "set_out",
    key: "S",
    name: KIND_NAMES.set_out,
    title:
      "A line that bending makes straight, or brings to an angle of your own; it says nothing of the camera",
  },
  {
    tool: "check",
    key: "K",
    name: KIND_NAMES.check,
    title: "A line that is measured and reported but steers nothing",
  },
];

/** The head of the table and one reading, which notes never cover. */
const ONE_ROW = "80px";

interface Props {
  bench: Bench;
  tool: Tool | undefined;
  onTool: (tool: Tool) => void;
  selected: string | undefined;
  onSelect: (id: string | undefined) => void;
  onDelete: (id: string) => void;
  fitting: boolean;
  onFitting: (fitting: boolean) => void;
  onFit: (id: string, fit: boolean) => void;
  pencil: Pencil;
}

export function FieldBook({
  bench,
  tool,
  onTool,
  selected,
  onSelect,
  onDelete,
  fitting,
  onFitting,
  onFit,
  pencil,
}: Props) {
  const { recipe, solution, report, acts } = bench;
  // What is only previewed stands in pencil, not in the table.
  const inPencil = new Set(pencil.found?.proposal.readings.map(({ reading }) => reading.id));
  const inInk = solution.readings.filter(({ id }) => !inPencil.has(id));
  return (
    <Flex
      as="aside"
      aria-label="Field book"
      direction="column"
      width="book"
      flexShrink={0}
      borderRightWidth="1px"
      borderColor="rule"
      minHeight="0"
    >
      <VersionTabs state={bench.state} />
      <Text as="h2" fontSize="12px" fontWeight="600" color="inkSoft" px="16px" pt="10px" pb="6px">
        Field book
      </Text>
      <ReadPart pencil={pencil} />
      <Tools tool={tool} onTool={onTool} fitting={fitting} onFitting={onFitting} />
      <Box flex="1" overflowY="auto" overflowX="hidden" minHeight={inInk.length ? ONE_ROW : "0"}>
        {pencil.found && (
          <PencilPart
            pencil={pencil}
            found={pencil.found}
            selected={selected}
            onSelect={onSelect}
          />
        )}
        {inInk.length > 0 ? (
          <Table.Root
            size="sm"
            fontFamily="mono"
            fontSize="12px"
            unstyled
            width="100%"
            borderCollapse="collapse"
          >
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
              {inInk.map((solved) => {
                const place = solved.number - 1;
                const [reading, words] = [recipe.readings[place], report.readings[place]];
                return (
                  reading &&
                  words && (
                    <ReadingRows
                      key={solved.id}
                      acts={acts}
                      reading={reading}
                      solved={solved}
                      words={words}
                      lit={solved.id === selected}
                      onSelect={onSelect}
                      onDelete={onDelete}
                      onFit={onFit}
                    />
                  )
                );
              })}
            </Table.Body>
          </Table.Root>
        ) : (
          !pencil.found && (
            <Text px="16px" py="12px" color="inkSoft" borderTopWidth="1px" borderColor="rule">
              No readings yet. A reading is a line along something that is level or upright in
              reality; from it Sequor works out how the camera stood. Draw one, or have the picture
              read.
            </Text>
          )
        )}
      </Box>
      {(report.notes.length > 0 || (report.next_line && !pencil.found)) && (
        <Box
          minHeight="0"
          maxHeight="46%"
          overflowY="auto"
          pb="10px"
          borderTopWidth="1px"
          borderColor="ruleFaint"
        >
          {report.notes.map((note) => (
            <NoteBox key={note.text} note={note} acts={acts} onSelect={onSelect} />
          ))}
          {report.next_line && !pencil.found && (
            <NextLineBox
              words={report.next_line}
              kind={solution.next_line?.kind}
              onDraw={(kind) => tool !== kind && onTool(kind)}
            />
          )}
        </Box>
      )}
      {recipe.readings.length > 0 && <BendLines bench={bench} />}
      <StanceWords report={report} solution={solution} acts={acts} />
    </Flex>
  );
}

function Tools({
  tool,
  onTool,
  fitting,
  onFitting,
}: Pick<Props, "tool" | "onTool" | "fitting" | "onFitting">) {
  return (
    <Grid templateColumns="1.32fr 1fr 1.22fr" gap="6px" px="16px" pb="8px">
      {TOOLS.map(({ tool: name, key, name: label, title }) => (
        <Button
          key={name}
          size="xs"
          height="28px"
          variant="outline"
          justifyContent="flex-start"
          px="6px"
          gap="4px"
          fontSize="12px"
          borderColor={tool === name ? "verdigris" : "rule"}
          bg={tool === name ? "highlight" : "sheet"}
          color={name === "rectangle" ? "ink" : name}
          aria-pressed={tool === name}
          onClick={() => onTool(name)}
          title={title}
        >
          <KindSign kind={name} /> {label}
          <Text as="span" fontFamily="mono" color="inkSoft" fontSize="11px" ml="auto">
            {key}
          </Text>
        </Button>
      ))}
      <Checkbox.Root
        size="sm"
        gridColumn="span 2"
        pl="4px"
        checked={fitting}
        onCheckedChange={({ checked }) => onFitting(checked === true)}
      >
        <Checkbox.HiddenInput />
        <Checkbox.Control
          borderColor="rule"
          _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
        />
        <Checkbox.Label fontWeight="400" fontSize="12px">
          Fit new lines to edges
        </Checkbox.Label>
      </Checkbox.Root>
    </Grid>
  );
}

/** A plain sentence about the readings, and what can be done about it. */
function NoteBox({
  note,
  acts,
  onSelect,
}: {
  note: NoteWords;
  acts: Acts;
  onSelect: (id: string | undefined) => void;
}) {
  return (
    <Box
      role="note"
      m="9px 12px 0"
      p="7px 11px"
      bg="sheet"
      borderWidth="1px"
      borderColor="rule"
      borderLeftWidth="3px"
      borderLeftColor="brick"
      borderRadius="4px"
      lineHeight="1.4"
      onMouseEnter={() => note.readings.length && onSelect(note.readings[0])}
    >
      {note.text}
      {note.offers.length > 0 && (
        <Flex wrap="wrap" columnGap="14px" mt="4px">
          {note.offers.map(({ label, edit }) => (
            <Button
              key={label}
              size="2xs"
              variant="plain"
              px="0"
              height="22px"
              fontSize="12.5px"
              fontWeight="600"
              color="verdigris"
              onClick={() => void acts.keep(edit)}
            >
              {label}
            </Button>
          ))}
        </Flex>
      )}
    </Box>
  );
}

/** The line that would tell most, which lies dotted on the picture, and the tool for it. */
function NextLineBox({
  words,
  kind,
  onDraw,
}: {
  words: string;
  kind: NonNullable<Bench["solution"]["next_line"]>["kind"] | undefined;
  onDraw: (kind: Tool) => void;
}) {
  return (
    kind && (
      <Box
        role="note"
        aria-label="The next best line"
        m="9px 12px 0"
        p="7px 11px"
        bg="sheet"
        borderWidth="1px"
        borderStyle="dashed"
        borderColor="inkSoft"
        borderRadius="4px"
        lineHeight="1.4"
      >
        {words}{" "}
        <Button
          size="2xs"
          variant="plain"
          px="0"
          height="18px"
          verticalAlign="baseline"
          fontSize="12.5px"
          fontWeight="600"
          color="verdigris"
          title="It lies dotted on the picture; draw along what is nearest to it"
          onClick={() => onDraw(kind)}
        >
          Draw it
        </Button>
      </Box>
    )
  );
}

function Head({ label }: { label: string }) {
  return (
    <Table.ColumnHeader
      fontWeight="500"
      fontSize="11.5px"
      fontFamily="body"
      textAlign="right"
      whiteSpace="nowrap"
      px="3px"
      py="4px"
      _first={{ pl: "16px" }}
      _last={{ pr: "8px" }}
    >
      {label}
    </Table.ColumnHeader>
  );
}
