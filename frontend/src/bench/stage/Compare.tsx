/* Comparing with the picture as shot, at the same scale and place: instead of the finished one,
   beside it, over it, behind a movable divider, or as an outline. */
import { Box } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Bench } from "../useBench";
import { boxPoints, mapped, polygon, type Matrix } from "../../picture/geometry";
import { ProxyPicture } from "../../picture/ProxyPicture";
import { QuietSlider } from "../../shared/QuietSlider";

/** The left half of the stage when both pictures are shown side by side. */
export function AsShotPane({ bench, asShot }: { bench: Bench; asShot: Matrix }) {
  return (
    <Box
      position="relative"
      flex="1"
      minWidth="0"
      overflow="hidden"
      bg="stage"
      borderRightWidth="2px"
      borderColor="onPicture"
      role="group"
      aria-label={t("As shot beside")}
    >
      <ProxyPicture
        bench={bench}
        laid={asShot}
        alt={t("{name}, as shot", { name: bench.state.file.name })}
      />
      <Tag left="12px">{t("as shot")}</Tag>
    </Box>
  );
}

interface OverProps {
  bench: Bench;
  asShot: Matrix;
  strength: number;
}

/** The picture as shot over the finished one, at the same place. */
export function ShotOver({ bench, asShot, strength }: OverProps) {
  const whole = strength >= 1;
  return (
    <Box
      position="absolute"
      inset="0"
      overflow="hidden"
      pointerEvents="none"
      bg={whole ? "stage" : undefined}
      style={{ opacity: strength }}
      data-as-shot-over
    >
      <ProxyPicture
        bench={bench}
        laid={asShot}
        alt={t("{name}, as shot", { name: bench.state.file.name })}
      />
      {whole && <Tag left="12px">{t("as shot")}</Tag>}
    </Box>
  );
}

/** How strong it is. */
export function StrengthSlider({
  strength,
  onStrength,
}: {
  strength: number;
  onStrength: (strength: number) => void;
}) {
  return (
    <Box
      position="absolute"
      bottom="14px"
      left="50%"
      transform="translateX(-50%)"
      width="260px"
      bg="sheet"
      color="ink"
      borderRadius="4px"
      px="14px"
      py="8px"
      onPointerDown={(event) => event.stopPropagation()}
    >
      <QuietSlider
        label={t("As shot over finished")}
        min={0}
        max={100}
        value={Math.round(strength * 100)}
        words={`${Math.round(strength * 100)} %`}
        onSlide={(value) => onStrength(value / 100)}
      />
    </Box>
  );
}

/** Where the frame of the camera was, over the corrected picture. */
export function ShotOutline({
  asShot,
  file,
}: {
  asShot: Matrix;
  file: { width: number; height: number };
}) {
  const path = polygon(boxPoints(0, 0, file.width, file.height).map((p) => mapped(asShot, p)));
  return (
    <g pointerEvents="none" data-outline>
      <path d={path} stroke="#000" strokeOpacity=".5" strokeWidth="3" />
      <path d={path} stroke="#ffd27d" strokeWidth="1.4" strokeDasharray="10 6" />
    </g>
  );
}

export function Tag({
  children,
  left,
  right,
}: {
  children: string;
  left?: string;
  right?: string;
}) {
  return (
    <Box
      position="absolute"
      top="12px"
      left={left}
      right={right}
      bg="inkOnPicture"
      color="onPicture"
      px="10px"
      py="5px"
      borderRadius="4px"
      fontWeight="600"
      whiteSpace="nowrap"
      pointerEvents="none"
    >
      {children}
    </Box>
  );
}
