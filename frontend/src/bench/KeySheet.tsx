import { Flex, Kbd, Text } from "@chakra-ui/react";
import { Window } from "../shared/Window";

const KEYS: [string, string][] = [
  ["L P K T R", "draw a level, a plumb, a check reading; trace; place a rectangle"],
  ["Enter", "with a kind chosen: put a line to move by keys"],
  ["Tab, arrows", "on an end of a reading: move it 1 px; Shift 20, Alt 0.1"],
  ["← →", "turn the picture 0.1°; Shift 1°, Alt 0.01°; the same for lean and swing when their vial has the focus"],
  ["Tab, arrows", "on the frame, an edge or a corner of it: move 10 px; Shift 100, Alt 1"],
  ["Delete", "delete the reading that is lit"],
  ["Escape", "let go of what is in the hand"],
  ["B held", "the picture as shot"],
  ["G", "grid: off, coarse, fine"],
  ["O", "the outline of the camera's frame"],
  ["M", "how much the loupe magnifies"],
  ["1 2 3 4", "Lens, Measure, Frame, Export"],
  ["Ctrl Z", "undo; with Shift redo"],
  ["+ − 0", "zoom in, out, fit; the wheel zooms at the pointer, Space and drag pans"],
];

export function KeySheet({ onClose }: { onClose: () => void }) {
  return (
    <Window title="Keys" width="560px" onClose={onClose}>
      {KEYS.map(([key, meaning]) => (
        <Flex key={meaning} py="6px" borderTopWidth="1px" borderColor="ruleFaint" gap="16px">
          <Kbd width="116px" flexShrink={0} justifyContent="center" bg="paperDeep" color="ink">
            {key}
          </Kbd>
          <Text>{meaning}</Text>
        </Flex>
      ))}
    </Window>
  );
}
