/* The field book: the readings as a surveyor writes them, what they say together, and how the
   camera stood. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { PencilPart, ReadPart } from "../pencil/PencilPart";
import { BendLines } from "./BendLines";
import { CameraLevelBox } from "./CameraLevelBox";
import { NextLineBox, NoteBox } from "./Notes";
import { ReadingTable } from "./ReadingTable";
import { StanceWords } from "./StanceWords";
import { Tools } from "./Tools";
import { useAnswered } from "./useAnswered";

/** The head of the table and one reading, which notes never cover. */
const ONE_ROW = "80px";

export function FieldBook({ bench, desk }: { bench: Bench; desk: Desk }) {
  const { pencil, selected } = desk;
  const { recipe, solution, report, acts } = bench;
  // What is only previewed stands in pencil, not in the table.
  const inPencil = new Set(pencil.found?.proposal.readings.map(({ reading }) => reading.id));
  const answered = useAnswered(bench.state.set_id);
  const notes = report.notes.filter(answered.isNew);
  const inInk = solution.readings.filter(({ id }) => !inPencil.has(id));
  return (
    <Flex
      as="section"
      aria-label={t("Field book")}
      direction="column"
      flex="1"
      pt="10px"
      minHeight="0"
    >
      <ReadPart pencil={pencil} />
      <Tools desk={desk} />
      <Box flex="1" overflowY="auto" overflowX="hidden" minHeight={inInk.length ? ONE_ROW : "0"}>
        {pencil.found && (
          <PencilPart
            bench={bench}
            pencil={pencil}
            found={pencil.found}
            selected={selected}
            onSelect={desk.select}
          />
        )}
        {inInk.length > 0 ? (
          <ReadingTable
            bench={bench}
            readings={inInk}
            selected={selected}
            onSelect={desk.select}
            onDelete={desk.remove}
            onFit={(id, wanted) => void desk.fit(id, wanted)}
          />
        ) : (
          !pencil.found && (
            <Text px="16px" py="12px" color="inkSoft" borderTopWidth="1px" borderColor="rule">
              {t(
                "No readings yet. A reading is a line along something that is level or upright in reality; from it Sequor works out how the camera stood. Draw one, or have the picture read.",
              )}
            </Text>
          )
        )}
      </Box>
      {(notes.length > 0 || (report.next_line && !pencil.found)) && (
        <Box
          minHeight="0"
          maxHeight="46%"
          overflowY="auto"
          pb="10px"
          borderTopWidth="1px"
          borderColor="ruleFaint"
        >
          {notes.map((note) => (
            <NoteBox
              key={note.text}
              note={note}
              bench={bench}
              onSelect={desk.select}
              onAnswer={() => answered.answer(note)}
            />
          ))}
          {solution.notes.some(({ code }) => code === "camera_tells") && (
            <CameraLevelBox bench={bench} />
          )}
          {report.next_line && !pencil.found && (
            <NextLineBox
              words={report.next_line}
              kind={solution.next_line?.kind}
              onDraw={(kind) => desk.tool !== kind && desk.toggleTool(kind)}
            />
          )}
        </Box>
      )}
      {recipe.readings.length > 0 && <BendLines bench={bench} />}
      <StanceWords report={report} solution={solution} acts={acts} />
    </Flex>
  );
}
