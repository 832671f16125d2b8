/* A picture in its frame, as large as a pane allows. */
import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { laying } from "./laying";
import { fromRows, mapped, product, scaling, translation, type Point } from "./geometry";
import { ProxyPicture, type Shot } from "./ProxyPicture";
import { useSize, type Size } from "./useSize";

/** One of several parts of a stage, each with a name. */
export function Pane({ name, children }: { name: string; children: (size: Size) => ReactNode }) {
  const [ref, size] = useSize<HTMLDivElement>();
  return (
    <Box
      ref={ref}
      role="group"
      aria-label={name}
      position="relative"
      flex="1"
      minWidth="0"
      overflow="hidden"
      _notLast={{ borderRightWidth: "2px", borderColor: "onPicture" }}
    >
      {size.width > 0 && children(size)}
    </Box>
  );
}

interface Props {
  size: Size;
  shot: Shot;
  alt: string;
  margin?: number;
  /** Only what lies right of this share of the pane is drawn. */
  from?: number;
  /** Drawn over the picture; gets what takes undistorted points to pixels of the frame. */
  children?: (place: (point: Point) => Point) => ReactNode;
}

export function FramedPicture({ size, shot, alt, margin = 22, from = 0, children }: Props) {
  const { frame, homography } = shot.shown;
  const zoom = Math.min(
    (size.width - 2 * margin) / frame.width,
    (size.height - 2 * margin) / frame.height,
  );
  const plane = product(scaling(zoom), translation(-frame.x, -frame.y));
  const laid = product(plane, fromRows(homography));
  const lay = laying(shot.shown);
  const [width, height] = [frame.width * zoom, frame.height * zoom];
  const left = (size.width - width) / 2;
  const cut = Math.min(Math.max(from * size.width - left, 0), width);
  return (
    <Box
      position="absolute"
      overflow="hidden"
      left={`${left}px`}
      top={`${(size.height - height) / 2}px`}
      width={`${width}px`}
      height={`${height}px`}
      style={{ clipPath: cut ? `inset(0 0 0 ${cut}px)` : undefined }}
    >
      <ProxyPicture bench={shot} laid={laid} alt={alt} undistorted />
      {children?.((point) => mapped(plane, lay(point)))}
    </Box>
  );
}
