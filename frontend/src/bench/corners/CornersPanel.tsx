/* The Corners step: what becomes of the empty corners: how much is bent, filled and cropped, how it
   is filled, which candidate, and the check that no sliver is left. */
import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { Missing } from "../../shared/Missing";
import { useState } from "react";
import type { Edit } from "../../api/client";
import { useFileOptions, useOptions } from "../../api/options";
import { Choices } from "../../shared/Choices";
import { Part, QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";
import { BendPart } from "./BendPart";
import { Candidates } from "./Candidates";
import { CornerBar } from "./CornerBar";
import { CornerCheck } from "./CornerCheck";
import { MarkBoxes } from "../frame/MarkBoxes";
import { MendPart } from "./MendPart";
import { FillJudged } from "./FillJudged";
import { useFillFacts } from "./useFillFacts";
import type { Framing } from "../frame/useFraming";

const ColourInput = chakra("input");

export function CornersPanel({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { fill, bend } = bench.recipe;
  const filled = bench.solution.cost.fill_fraction > 0;
  const fills = filled || fill.allowance > 0;
  const [checking, setChecking] = useState(false);
  return (
    <Box p="16px" overflowY="auto" minHeight="0">
      <Part title={t("Empty corners")} first>
        <CornerBar bench={bench} />
      </Part>
      {(bend.corners > 0 || bend.lines > 0) && <BendPart bench={bench} framing={framing} />}
      {fills && <FilledPart bench={bench} framing={framing} filled={filled} />}
      <MendPart bench={bench} framing={framing} judged={!fills} />
      <Part title={t("Check")}>
        <QuietButton width="100%" disabled={!bench.atRest} onClick={() => setChecking(true)}>
          {t("Look into corners and edges")}
        </QuietButton>
        <Text mt="6px" color="inkSoft">
          {t("At full size, every pixel counted.")}
        </Text>
      </Part>
      {checking && <CornerCheck bench={bench} onClose={() => setChecking(false)} />}
    </Box>
  );
}

function FilledPart({
  bench,
  framing,
  filled,
}: {
  bench: Bench;
  framing: Framing;
  filled: boolean;
}) {
  const { fill_methods: methods } = useOptions();
  const { method, colour, avoid } = bench.recipe.fill;
  const [choosing, setChoosing] = useState(false);
  const keep = (edit: Edit) => void bench.acts.record(edit);
  const facts = useFillFacts(bench);
  return (
    <Part title={t("Filled")}>
      <Missing asked={facts} />
      <Choices
        label={t("How corners are filled")}
        value={method}
        options={methods}
        onChoose={(chosen) => keep({ do: "fill_with", method: chosen })}
      />
      {method === "colour" && (
        <Flex mt="8px" gap="8px" align="center">
          <ColourInput
            type="color"
            aria-label={t("Colour of the corners")}
            value={colour}
            onChange={(event) =>
              bench.acts.recordSoon({ do: "choose_colour", colour: event.target.value })
            }
            width="44px"
            height="28px"
            borderWidth="1px"
            borderColor="rule"
            borderRadius="4px"
            bg="sheet"
          />
          <Text fontFamily="mono">{colour}</Text>
        </Flex>
      )}
      {method === "transparent" && <TransparentWords />}
      {method === "patches" && (
        <>
          <QuietButton
            mt="10px"
            width="100%"
            disabled={!filled || !bench.atRest}
            onClick={() => setChoosing(true)}
          >
            {t("Choose among four candidates")}
          </QuietButton>
          <MarkBoxes
            label={t("Mark what not to copy")}
            tool="avoid"
            count={avoid.length}
            framing={framing}
            mt="6px"
            onClear={() => keep({ do: "copy_everything" })}
          />
        </>
      )}
      {facts.data?.doubt_words && <FillJudged facts={facts.data} />}
      {facts.data?.notes.map((note) => (
        <Text key={note} mt="10px" pl="10px" borderLeftWidth="3px" borderColor="level" role="note">
          {note}
        </Text>
      ))}
      {choosing && (
        <Candidates
          bench={bench}
          regions={facts.data?.regions ?? []}
          onClose={() => setChoosing(false)}
        />
      )}
    </Part>
  );
}

/** Which files keep transparent corners. */
function TransparentWords() {
  const { formats } = useFileOptions();
  const named = (transparent: boolean) =>
    formats
      .filter((format) => format.transparent === transparent)
      .map((format) => format.value.toUpperCase());
  return (
    <Text mt="8px" color="inkSoft">
      {t("{keeping} keep them so; {white} makes them white.", {
        keeping: named(true).join(", "),
        white: named(false).join(", "),
      })}
    </Text>
  );
}
