/* The picture as shot on one side of a divider that can be moved, the finished one on the other. */
import { Box, chakra } from "@chakra-ui/react";
import { useDrag } from "@use-gesture/react";
import type { KeyboardEvent } from "react";
import { t } from "../../shared/words";
import { clamp, type Matrix } from "../../picture/geometry";
import { ProxyPicture } from "../../picture/ProxyPicture";
import { arrow, stepOf } from "../../shared/keys";
import { useRoom } from "../../shared/useWindow";
import type { Bench } from "../useBench";
import { Tag } from "./Compare";
import { REACH_PX } from "./tools";

const Divider = chakra("div");
/** Of the stage's width, by which an arrow key moves the divider. */
const DIVIDER_STEP = 0.01;
const WIDE_PX = 18;

interface DividedProps {
  bench: Bench;
  asShot: Matrix;
  size: { width: number; height: number };
  share: number;
  onShare: (share: number) => void;
}

/** The picture as shot on the left of a divider. */
export function DividedShot({ bench, asShot, size, share, onShare }: DividedProps) {
  const x = share * size.width;
  const wide = useRoom().fingers ? 2 * REACH_PX : WIDE_PX;
  const drag = useDrag(
    ({ first, event, movement: [moved], memo = share }) => {
      if (first) event.stopPropagation();
      onShare(clamp((memo as number) + moved / size.width, 0, 1));
      return memo as number;
    },
    { pointer: { keys: false } },
  );
  const onKeyDown = (event: KeyboardEvent) => {
    const way = arrow(event)?.[0];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    onShare(clamp(share + way * stepOf(event, DIVIDER_STEP), 0, 1));
  };
  return (
    <>
      <Box
        position="absolute"
        top="0"
        bottom="0"
        left="0"
        overflow="hidden"
        bg="stage"
        pointerEvents="none"
        style={{ width: x }}
      >
        <ProxyPicture
          bench={bench}
          laid={asShot}
          alt={t("{name}, as shot", { name: bench.state.file.name })}
        />
        <Tag left="12px">{t("as shot")}</Tag>
      </Box>
      <Divider
        role="slider"
        tabIndex={0}
        aria-label={t("Divider")}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(share * 100)}
        position="absolute"
        top="0"
        bottom="0"
        width={`${wide}px`}
        ml={`${-wide / 2}px`}
        cursor="col-resize"
        touchAction="none"
        style={{ left: x }}
        _before={{
          content: '""',
          position: "absolute",
          left: "calc(50% - 1px)",
          top: 0,
          bottom: 0,
          width: "2px",
          bg: "onPicture",
          boxShadow: "0 0 3px rgba(0,0,0,.6)",
        }}
        _after={{
          content: '""',
          position: "absolute",
          left: "calc(50% - 8px)",
          top: "50%",
          width: "16px",
          height: "34px",
          mt: "-17px",
          bg: "onPicture",
          borderRadius: "8px",
          boxShadow: "0 0 4px rgba(0,0,0,.5)",
        }}
        {...drag()}
        onKeyDown={onKeyDown}
      />
    </>
  );
}
