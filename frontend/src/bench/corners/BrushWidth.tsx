/* How wide the brush is. */
import { QuietSlider } from "../../shared/QuietSlider";
import { t } from "../../shared/words";
import type { Framing } from "../frame/useFraming";
import type { Bench } from "../useBench";

/** Steps of the slider, so that it is fine where the brush is. */
const FINEST = 0.002;
const WIDEST = 0.12;
const STEPS = 40;
const shareOf = (step: number) => FINEST * (WIDEST / FINEST) ** (step / STEPS);
const stepOf = (share: number) =>
  Math.round((STEPS * Math.log(share / FINEST)) / Math.log(WIDEST / FINEST));

export function BrushWidth({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { frame } = bench.solution;
  const width = 2 * framing.brush * Math.max(frame.width, frame.height);
  return (
    <QuietSlider
      mt="10px"
      label={t("Width of the brush")}
      min={0}
      max={STEPS}
      value={stepOf(framing.brush)}
      words={`${Math.round(width)} px`}
      onSlide={(step) => framing.setBrush(shareOf(step))}
    />
  );
}
