/* Where the frame lies: best or by hand, what it must keep, what it aims at, and the guides to
   compose by. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Edit } from "../../api/client";
import { useOptions } from "../../api/options";
import { Choice, HeldButton, Part, QuietButton } from "../../shared/Part";
import { QuietSlider } from "../../shared/QuietSlider";
import { AimPart } from "./AimPart";
import { AirPart } from "./AirPart";
import { TakeTool } from "./TakeTool";
import type { Bench } from "../useBench";
import { useLook } from "../useLook";
import type { Framing } from "./useFraming";

export function PlacePart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { guides } = useOptions();
  const { keep: kept, keep_measured: keepsMeasured } = bench.recipe.frame;
  const keep = (edit: Edit) => void bench.acts.record(edit);
  const look = useLook(bench.acts);
  const turnKeep = { do: "keep_measured", keep: !keepsMeasured } as const;
  return (
    <Box>
      <Part title={t("The frame")} first>
        <Text aria-live="polite">{bench.report.placing}</Text>
        <QuietButton
          mt="8px"
          width="100%"
          disabled={bench.solution.best && !bench.recipe.frame.placed}
          onClick={() => keep({ do: "best_frame" })}
          {...look({ do: "best_frame" })}
        >
          {t("Back to the best frame")}
        </QuietButton>
        <Text mt="8px" color="inkSoft">
          {t(
            "Drag it by its inside, resize it by its edges and corners. Arrow keys move it when it has the focus.",
          )}
        </Text>
      </Part>
      <Part title={t("Keep")}>
        <Flex gap="6px">
          <TakeTool framing={framing} tool="keep">
            {kept ? t("Draw another box") : t("Draw a box to keep")}
          </TakeTool>
          {kept && (
            <QuietButton onClick={() => keep({ do: "keep_box", opposite: null })}>
              {t("Clear")}
            </QuietButton>
          )}
        </Flex>
        <Text mt="6px" color="inkSoft">
          {kept
            ? t("The frame contains the box as long as it can.")
            : t("The subject, or whatever must not be cut.")}
        </Text>
        {kept && <AirPart bench={bench} />}
        {!kept && bench.solution.readings.length > 0 && (
          <HeldButton
            mt="8px"
            width="100%"
            held={keepsMeasured}
            title={t(
              "What readings lie on stays in the frame where that costs at most a third of it; else a front keeps its foot",
            )}
            onClick={() => keep(turnKeep)}
            {...look(turnKeep)}
          >
            {t("Keep what was measured")}
          </HeldButton>
        )}
      </Part>
      <AimPart bench={bench} framing={framing} />
      <Part title={t("Guides in the frame")}>
        <Choice
          label={t("Guides in the frame")}
          value={framing.guide}
          options={[
            { value: "none", label: t("None") },
            ...guides.map(({ guide, name }) => ({ value: guide, label: name })),
          ]}
          onChoose={framing.setGuide}
        />
        <QuietSlider
          mt="12px"
          label={t("Outside dimmed")}
          name={t("Dimming of the outside")}
          min={10}
          max={100}
          value={Math.round(framing.dim * 100)}
          words={framing.dim >= 1 ? t("fully") : `${Math.round(framing.dim * 100)} %`}
          onSlide={(value) => framing.setDim(value / 100)}
        />
      </Part>
    </Box>
  );
}
