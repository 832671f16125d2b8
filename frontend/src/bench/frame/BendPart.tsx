/* What must not bend, and how far the rest may. */
import { Flex, Text } from "@chakra-ui/react";
import { useOptions } from "../../api/options";
import { NumberField } from "../../shared/NumberField";
import { HeldButton, Part, QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";
import type { Framing } from "./useFraming";

export function BendPart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { max_stretch: range } = useOptions();
  const { still, max_stretch: most } = bench.recipe.bend;
  const marking = framing.tool === "still";
  return (
    <Part title="Bending">
      <Flex gap="6px">
        <HeldButton
          held={marking}
          flex="1"
          onClick={() => framing.setTool(marking ? undefined : "still")}
        >
          Mark what must not bend
        </HeldButton>
        {still.length > 0 && (
          <QuietButton onClick={() => void bench.acts.keep({ do: "bend_everything" })}>
            Clear {still.length}
          </QuietButton>
        )}
      </Flex>
      <Text mt="6px" color="inkSoft" fontSize="12px">
        A face, a person, a round window. Readings and straight edges are held anyway.
      </Text>
      <Flex mt="8px" gap="8px" align="center">
        <Text flex="1">Stretch at most</Text>
        <NumberField
          label="Most that may be stretched"
          what="A stretch"
          unit="×"
          value={most}
          range={range}
          places={2}
          step={0.05}
          width="70px"
          onEnter={(value) => void bench.acts.keep({ do: "limit_bending", max_stretch: value })}
        />
      </Flex>
    </Part>
  );
}
