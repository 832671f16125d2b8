/* Where the frame lies: best or by hand, what it must keep, what it aims at, and the guides to compose by. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { GuideName, Recipe } from "../api/client";
import { Choice, HeldButton, Part, QuietButton } from "../shared/Part";
import { QuietSlider } from "../shared/QuietSlider";
import { withFrame } from "./recipes";
import type { Bench } from "./useBench";
import type { Framing, ShownGuide } from "./useFraming";

type Aim = NonNullable<Recipe["frame"]["aim"]>;

export function PlacePart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { keep, aim } = bench.recipe.frame;
  const enter = (frame: Partial<Recipe["frame"]>, what: string) => void bench.acts.commit(withFrame(bench.acts.latest(), frame), what);
  const toggle = (tool: "keep" | "aim") => framing.setTool(framing.tool === tool ? undefined : tool);
  return (
    <Box>
      <Part title="The frame" first>
        <Text aria-live="polite">{bench.solution.best ? "lies where it is largest" : "lies where you placed it"}</Text>
        <QuietButton mt="8px" width="100%" disabled={bench.solution.best && !bench.recipe.frame.placed} onClick={() => enter({ placed: null }, "best frame")}>
          Back to the best frame
        </QuietButton>
        <Text mt="8px" color="inkSoft">
          Drag it by its inside, resize it by its edges and corners. Arrow keys move it when it has the focus.
        </Text>
      </Part>
      <Part title="Keep">
        <Flex gap="6px">
          <HeldButton held={framing.tool === "keep"} flex="1" onClick={() => toggle("keep")}>
            {keep ? "Draw another box" : "Draw a box to keep"}
          </HeldButton>
          {keep && <QuietButton onClick={() => enter({ keep: null }, "nothing to keep")}>Clear</QuietButton>}
        </Flex>
        <Text mt="6px" color="inkSoft">
          {keep ? "The frame contains the box as long as it can." : "The subject, or whatever must not be cut."}
        </Text>
      </Part>
      <Part title="Aim">
        <Flex gap="6px">
          <HeldButton held={framing.tool === "aim"} flex="1" onClick={() => toggle("aim")}>
            {aim?.point ? "Choose another point" : "Choose a point"}
          </HeldButton>
          {aim && <QuietButton onClick={() => enter({ aim: null }, "no aim")}>Clear</QuietButton>}
        </Flex>
        {aim?.point && (
          <Flex mt="6px" gap="6px" align="center">
            <Text whiteSpace="nowrap">to meet</Text>
            <Choice
              label="What the point is to meet"
              value={aim.meets}
              options={[
                ["crossing", "a crossing"],
                ["line", "a line"],
              ]}
              onChoose={(meets) => enter({ aim: { ...aim, meets } }, "aim")}
            />
            <Choice label="Guide of the aim" value={aim.guide} options={framing.guides.map((g): [GuideName, string] => [g.guide, g.name.toLowerCase()])} onChoose={(guide) => enter({ aim: { ...aim, guide } }, "aim")} />
          </Flex>
        )}
        <Between bench={bench} aim={aim ?? null} onAim={(next) => enter({ aim: next }, "centred between two edges")} />
      </Part>
      <Part title="Guides in the frame">
        <Choice label="Guides in the frame" value={framing.guide} options={[["none", "None"], ...framing.guides.map((g): [ShownGuide, string] => [g.guide, g.name])]} onChoose={framing.setGuide} />
        <QuietSlider mt="12px" label="Outside dimmed" name="Dimming of the outside" min={10} max={100} value={Math.round(framing.dim * 100)} words={framing.dim >= 1 ? "fully" : `${Math.round(framing.dim * 100)} %`} onSlide={(value) => framing.setDim(value / 100)} />
      </Part>
    </Box>
  );
}

/** The frame's middle midway between two readings. */
function Between({ bench, aim, onAim }: { bench: Bench; aim: Aim | null; onAim: (aim: Aim) => void }) {
  const { readings } = bench.recipe;
  const [first, setFirst] = useState(aim?.between?.[0] ?? "");
  const [second, setSecond] = useState(aim?.between?.[1] ?? "");
  if (readings.length < 2) return null;
  const options = readings.map((reading, index): [string, string] => [reading.id, reading.name ? `${index + 1} ${reading.name}` : `${reading.kind} ${index + 1}`]);
  const pick: [string, string] = ["", "edge"];
  const ready = first && second && first !== second;
  return (
    <Box mt="10px">
      <Text mb="4px">Centred between</Text>
      <Flex gap="6px">
        <Choice label="First edge" value={first} options={[pick, ...options]} onChoose={setFirst} />
        <Choice label="Second edge" value={second} options={[pick, ...options]} onChoose={setSecond} />
        <QuietButton disabled={!ready} onClick={() => onAim({ point: null, guide: "centre", meets: "line", between: [first, second] })}>
          Set
        </QuietButton>
      </Flex>
    </Box>
  );
}
