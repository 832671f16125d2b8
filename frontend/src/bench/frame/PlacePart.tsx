/* Where the frame lies: best or by hand, what it must keep, what it aims at, and the guides to
   compose by. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Edit } from "../../api/client";
import { useOptions } from "../../api/options";
import { Choice, HeldButton, Part, QuietButton } from "../../shared/Part";
import { QuietSlider } from "../../shared/QuietSlider";
import type { Bench } from "../useBench";
import type { Framing } from "./useFraming";

export function PlacePart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { guides } = useOptions();
  const { keep: kept } = bench.recipe.frame;
  const keep = (edit: Edit) => void bench.acts.record(edit);
  return (
    <Box>
      <Part title="The frame" first>
        <Text aria-live="polite">{bench.report.placing}</Text>
        <QuietButton
          mt="8px"
          width="100%"
          disabled={bench.solution.best && !bench.recipe.frame.placed}
          onClick={() => keep({ do: "best_frame" })}
        >
          Back to the best frame
        </QuietButton>
        <Text mt="8px" color="inkSoft">
          Drag it by its inside, resize it by its edges and corners. Arrow keys move it when it has
          the focus.
        </Text>
      </Part>
      <Part title="Keep">
        <Flex gap="6px">
          <ToolButton framing={framing} tool="keep">
            {kept ? "Draw another box" : "Draw a box to keep"}
          </ToolButton>
          {kept && (
            <QuietButton onClick={() => keep({ do: "keep_box", opposite: null })}>
              Clear
            </QuietButton>
          )}
        </Flex>
        <Text mt="6px" color="inkSoft">
          {kept
            ? "The frame contains the box as long as it can."
            : "The subject, or whatever must not be cut."}
        </Text>
        {!kept && bench.solution.readings.length > 0 && (
          <HeldButton
            mt="8px"
            width="100%"
            held={bench.recipe.frame.keep_measured}
            title="The things that readings lie on stay in the frame where that costs at most a third of it"
            onClick={() => keep({ do: "keep_measured", keep: !bench.recipe.frame.keep_measured })}
          >
            Keep what was measured
          </HeldButton>
        )}
      </Part>
      <AimPart bench={bench} framing={framing} />
      <Part title="Guides in the frame">
        <Choice
          label="Guides in the frame"
          value={framing.guide}
          options={[
            { value: "none", label: "None" },
            ...guides.map(({ guide, name }) => ({ value: guide, label: name })),
          ]}
          onChoose={framing.setGuide}
        />
        <QuietSlider
          mt="12px"
          label="Outside dimmed"
          name="Dimming of the outside"
          min={10}
          max={100}
          value={Math.round(framing.dim * 100)}
          words={framing.dim >= 1 ? "fully" : `${Math.round(framing.dim * 100)} %`}
          onSlide={(value) => framing.setDim(value / 100)}
        />
      </Part>
    </Box>
  );
}

function ToolButton({
  framing,
  tool,
  children,
}: {
  framing: Framing;
  tool: "keep" | "aim";
  children: string;
}) {
  const held = framing.tool === tool;
  return (
    <HeldButton held={held} flex="1" onClick={() => framing.setTool(held ? undefined : tool)}>
      {children}
    </HeldButton>
  );
}

function AimPart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { guides, aim_meets: meets } = useOptions();
  const { aim } = bench.recipe.frame;
  const keep = (edit: Edit) => void bench.acts.record(edit);
  return (
    <Part title="Aim">
      <Flex gap="6px">
        <ToolButton framing={framing} tool="aim">
          {aim?.point ? "Choose another point" : "Choose a point"}
        </ToolButton>
        {aim && <QuietButton onClick={() => keep({ do: "clear_aim" })}>Clear</QuietButton>}
      </Flex>
      {aim?.point && (
        <Flex mt="6px" gap="6px" align="center">
          <Text whiteSpace="nowrap">to meet</Text>
          <Choice
            label="What the point is to meet"
            value={aim.meets}
            options={meets}
            onChoose={(value) => keep({ do: "change_aim", meets: value })}
          />
          <Choice
            label="Guide of the aim"
            value={aim.guide}
            options={guides.map(({ guide, name }) => ({ value: guide, label: name.toLowerCase() }))}
            onChoose={(guide) => keep({ do: "change_aim", guide })}
          />
        </Flex>
      )}
      <Between bench={bench} />
    </Part>
  );
}

/** The frame's middle midway between two readings. */
function Between({ bench }: { bench: Bench }) {
  const { readings } = bench.recipe;
  const between = bench.recipe.frame.aim?.between;
  const [first, setFirst] = useState(between?.[0] ?? "");
  const [second, setSecond] = useState(between?.[1] ?? "");
  if (readings.length < 2) return null;
  const options = [
    { value: "", label: "edge" },
    ...readings.map((reading, index) => ({
      value: reading.id,
      label: reading.name ? `${index + 1} ${reading.name}` : `${reading.kind} ${index + 1}`,
    })),
  ];
  const ready = first && second && first !== second;
  return (
    <Box mt="10px">
      <Text mb="4px">Centred between</Text>
      <Flex gap="6px">
        <Choice label="First edge" value={first} options={options} onChoose={setFirst} />
        <Choice label="Second edge" value={second} options={options} onChoose={setSecond} />
        <QuietButton
          disabled={!ready}
          onClick={() => void bench.acts.record({ do: "aim_between", between: [first, second] })}
        >
          Set
        </QuietButton>
      </Flex>
    </Box>
  );
}
