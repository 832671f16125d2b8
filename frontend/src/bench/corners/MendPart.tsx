/* Places made anew by the brush: the brush itself, and what can be done about each place. */
import { Box, Flex, Text } from "@chakra-ui/react";
import type { Edit, FillCandidate, Mend } from "../../api/client";
import { HeldButton, Part, QuietButton } from "../../shared/Part";
import { t } from "../../shared/words";
import { BrushWidth } from "./BrushWidth";
import { FillJudged } from "./FillJudged";
import { useFillFacts } from "./useFillFacts";
import { MarkBoxes } from "../frame/MarkBoxes";
import type { Framing } from "../frame/useFraming";
import type { Bench } from "../useBench";

interface Props {
  bench: Bench;
  framing: Framing;
  /** Whether it is said here how good mends are: where corners are filled too it is said there. */
  judged: boolean;
}

export function MendPart({ bench, framing, judged }: Props) {
  const { mends } = bench.recipe;
  const brushing = framing.tool === "mend";
  const keep = (edit: Edit) => void bench.acts.record(edit);
  const facts = useFillFacts(bench);
  return (
    <Part title={t("Mended by hand")}>
      <MarkBoxes
        label={t("Brush over a place")}
        tool="mend"
        count={mends.length}
        framing={framing}
        onClear={() => keep({ do: "remove_mend" })}
      />
      {brushing && <BrushWidth bench={bench} framing={framing} />}
      {mends.length ? (
        <Text mt="8px" color="inkSoft">
          {bench.report.cost.mended}
        </Text>
      ) : (
        <Text mt="6px" color="inkSoft">
          {t("A poor fill, a wire, a bin at the edge: made anew from what is around it.")}
        </Text>
      )}
      {judged && mends.length > 0 && facts.data?.doubt_words && <FillJudged facts={facts.data} />}
      <Box as="ol" listStyleType="none" mt="4px">
        {mends.map((mend, index) => (
          <MendRow
            // Mends have no names; each is what it is at its place in the list.
            key={index}
            mend={mend}
            number={index + 1}
            framing={framing}
            keep={keep}
          />
        ))}
      </Box>
    </Part>
  );
}

function MendRow({
  mend,
  number,
  framing,
  keep,
}: {
  mend: Mend;
  number: number;
  framing: Framing;
  keep: (edit: Edit) => void;
}) {
  const copying = framing.tool === "copy" && framing.copied === number;
  const { candidate } = mend;
  const copy = () => {
    framing.setCopied(copying ? undefined : number);
    framing.setTool(copying ? undefined : "copy");
  };
  return (
    <Flex
      as="li"
      role="group"
      aria-label={t("Mend {number}", { number })}
      mt="6px"
      gap="6px"
      align="center"
    >
      <Text as="span" fontWeight="600" color="verdigris" minWidth="14px">
        {number}
      </Text>
      <QuietButton
        px="8px"
        onClick={() => keep({ do: "mend_otherwise", number })}
        title={t("Made anew another way")}
      >
        {t("Another")}
      </QuietButton>
      <HeldButton held={copying} px="8px" onClick={copy}>
        {t("Copy from…")}
      </HeldButton>
      <Text as="span" color="inkSoft" fontSize="12px" flex="1" minWidth="0" truncate>
        {mend.copied_from ? t("copied") : named(candidate)}
      </Text>
      <QuietButton
        px="0"
        minWidth="26px"
        aria-label={t("Remove mend {number}", { number })}
        onClick={() => keep({ do: "remove_mend", number })}
      >
        ×
      </QuietButton>
    </Flex>
  );
}

const named = ({ style, draw }: FillCandidate): string =>
  style === "sharp" ? t("sharp {draw}", { draw }) : t("calm {draw}", { draw });
