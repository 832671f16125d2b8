import { Flex, Kbd, Text } from "@chakra-ui/react";
import { t } from "../shared/words";
import { Window } from "../shared/Window";

/** Each key is a cap of its own; a word between them is written as it is. */
const KEYS: [string[], string][] = [
  [["L"], t("draw a line: level or plumb, whichever it is nearer to; Shift: level in any case")],
  [["P", "H", "K"], t("draw a plumb in any case, a horizon, a check reading")],
  [["X"], t("turn the reading that is lit over: a level becomes a plumb, a plumb a level")],
  [["T", "R"], t("trace something that looks bent; place a rectangle")],
  [["S"], t("set out a line: bending makes it straight, or brings it to an angle")],
  [["Enter"], t("with a tool in the hand: put a line to move by keys")],
  [["Escape"], t("let go of what is in the hand, or put the tool away")],
  [["Tab", t("arrows")], t("on an end of a reading: move it 1 px; Shift 10, Alt 0.1")],
  [
    ["←", "→"],
    t(
      "turn the picture 0.1°; Shift 1°, Alt 0.01°; the same for lean and swing when their vial has the focus",
    ),
  ],
  [
    ["Tab", t("arrows")],
    t("on the frame, an edge or a corner of it: move 10 px; Shift 100, Alt 1"),
  ],
  [["A"], t("have the picture read; what it proposes stands in pencil")],
  [["I"], t("ink all that is in pencil; with Shift the line that is lit")],
  [["V"], t("preview what is in pencil")],
  [["N"], t("fit the reading that is lit to the next edge in reach")],
  [["Delete"], t("delete the reading that is lit, or rub it out if it is in pencil")],
  [["B", t("held")], t("the picture as shot, in place")],
  [["C"], t("the finished picture without marks, and back")],
  [["Z", t("held")], t("one to one at the pointer; in Export a pixel of the file")],
  [["E"], t("by eye: the calmest of five turns")],
  [["Q"], t("pull the corners of the picture by eye")],
  [[",", "."], t("run the loupe along the reading that is lit")],
  [["G"], t("grid: off, coarse, fine")],
  [["W"], t("how the picture bends: the mesh, the stretch")],
  [["O"], t("the outline of the camera's frame")],
  [["M"], t("how much the loupe magnifies")],
  [["1", "…", "5"], t("Lens, Measure, Frame, Corners, Export")],
  [["F"], t("nothing but the picture; with Shift the whole screen")],
  [["/"], t("find anything, by what you call it")],
  [["Ctrl", "Z"], t("undo; with Shift redo")],
  [
    ["+", "−", "0"],
    t(
      "zoom in, out, fit; the wheel zooms at the pointer, Space and drag pans, two fingers do both; without a tool a drag outside the frame turns the picture",
    ),
  ],
];
const WORDS = [t("arrows"), t("held"), "…"];

export function KeySheet({ onClose }: { onClose: () => void }) {
  return (
    <Window title={t("Keys")} width="600px" onClose={onClose}>
      {KEYS.map(([keys, meaning]) => (
        <Flex
          key={meaning}
          py="6px"
          borderTopWidth="1px"
          borderColor="ruleFaint"
          gap="16px"
          align="center"
        >
          <Flex width="132px" flexShrink={0} gap="5px" align="center">
            {keys.map((key) =>
              WORDS.includes(key) ? (
                <Text key={key} color="inkSoft">
                  {key}
                </Text>
              ) : (
                <Kbd key={key} bg="paperDeep" color="ink" minWidth="24px" justifyContent="center">
                  {key}
                </Kbd>
              ),
            )}
          </Flex>
          <Text>{meaning}</Text>
        </Flex>
      ))}
    </Window>
  );
}
