/* The light that a raw picture is developed for: one of the usual ones, or that of a grey spot. */
import { Flex, Text } from "@chakra-ui/react";
import { useOptions } from "../../api/options";
import { Choice, Part } from "../../shared/Part";
import { TakeTool } from "../frame/TakeTool";
import type { Framing } from "../frame/useFraming";
import type { Bench } from "../useBench";

const SPOT = { value: "spot", label: "A grey spot" } as const;

export function LightPart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { lights } = useOptions();
  const { white } = bench.report;
  if (!white) return null;
  const { source } = bench.recipe.white;
  return (
    <Part title="Light">
      <Choice
        label="Light that the picture is developed for"
        value={source}
        options={source === "spot" ? [...lights, SPOT] : lights}
        onChoose={(chosen) =>
          chosen !== "spot" && void bench.acts.record({ do: "choose_white", source: chosen })
        }
      />
      <Flex mt="6px">
        <TakeTool framing={framing} tool="grey">
          {source === "spot" ? "Another grey spot" : "Choose a grey spot"}
        </TakeTool>
      </Flex>
      <Text mt="8px" color="inkSoft">
        Developed {white}.
      </Text>
    </Part>
  );
}
