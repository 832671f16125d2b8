/* Beside the stage, or drawn up from below it: the versions, what the step in hand needs, what the
   frame costs. */
import { Box, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { t } from "../shared/words";
import { later, useAhead } from "../shared/later";
import { useRoom } from "../shared/useWindow";
import { VersionTabs } from "../versions/VersionTabs";
import { FieldBook } from "./book/FieldBook";
import { Drawer } from "./Drawer";
import { KeptBar } from "./KeptBar";
import { STEP_NAMES } from "./steps";
import { withoutLook, type Bench } from "./useBench";
import { Lesson } from "./Lesson";
import type { Desk } from "./useDesk";

const LensPanel = later(async () => (await import("./lens/LensPanel")).LensPanel);
const FramePanel = later(async () => (await import("./frame/FramePanel")).FramePanel);
const CornersPanel = later(async () => (await import("./corners/CornersPanel")).CornersPanel);
const ExportPanel = later(async () => (await import("./export/ExportPanel")).ExportPanel);

interface Props {
  bench: Bench;
  /** The same a moment later: what only tells need not follow the hand. */
  calm: Bench;
  desk: Desk;
}

export function Column({ bench, calm, desk }: Props) {
  const { step, framing, setAidsSlot } = desk;
  const stands = withoutLook(bench);
  const { upright, low } = useRoom();
  useAhead(LensPanel, FramePanel, CornersPanel, ExportPanel);
  const panel =
    step === "measure" ? (
      <FieldBook bench={calm} desk={desk} />
    ) : (
      <Flex as="section" aria-label={STEP_NAMES[step]} direction="column" flex="1" minHeight="0">
        {step === "lens" && <LensPanel bench={bench} framing={framing} />}
        {step === "frame" && <FramePanel bench={stands} framing={framing} />}
        {step === "corners" && <CornersPanel bench={stands} framing={framing} />}
        {step === "export" && <ExportPanel bench={bench} onScale={desk.setProofScale} />}
      </Flex>
    );
  const all = (
    <>
      <VersionTabs state={calm.state} />
      {panel}
      <Lesson readings={calm.recipe.readings.length} />
      <Box ref={setAidsSlot} role="group" aria-label={t("Over the picture")} flexShrink={0} />
      <KeptBar bench={calm} />
    </>
  );
  if (upright)
    return (
      <Drawer label={STEP_NAMES[step]} summary={calm.report.cost.kept}>
        <Scrolled>{all}</Scrolled>
      </Drawer>
    );
  return (
    <Flex
      direction="column"
      width="column"
      flexShrink={0}
      minHeight="0"
      borderLeftWidth="1px"
      borderColor="rule"
    >
      {low ? <Scrolled>{all}</Scrolled> : all}
    </Flex>
  );
}

/** Where there is little height everything is scrolled together. */
function Scrolled({ children }: { children: ReactNode }) {
  return (
    <Box flex="1" minHeight="0" overflowY="auto">
      <Flex direction="column">{children}</Flex>
    </Box>
  );
}
