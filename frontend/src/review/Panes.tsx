/* The two halves of a review: the picture as it holds now, and as it would be. */
import { Box, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { useSize } from "../bench/stage/useView";
import {
  fromRows,
  mapped,
  product,
  scaling,
  translation,
  type Point,
} from "../bench/stage/geometry";
import { PencilLines } from "../bench/stage/PencilLines";
import { ProxyPicture } from "../bench/stage/ProxyPicture";
import { SvgBox } from "../shared/SvgBox";
import type { Solution } from "../api/client";
import type { Reviewed } from "./useReview";

const MARGIN_PX = 22;

/** The picture as it is, with the lines that it proposes in pencil. */
export function AsItIs({ reviewed }: { reviewed: Reviewed | undefined }) {
  return (
    <Pane name="As it is">
      {(size) =>
        reviewed && <Framed {...{ size, reviewed }} shown={reviewed.state.solution} pencilled />
      }
    </Pane>
  );
}

/** The picture as it would be; words where there is nothing to take. */
export function AsItWouldBe({ reviewed }: { reviewed: Reviewed | undefined }) {
  return (
    <Pane name="As it would be">
      {(size) =>
        reviewed?.draft ? (
          <Framed {...{ size, reviewed }} shown={reviewed.draft.solution} />
        ) : (
          reviewed && (
            <Text
              position="absolute"
              top="50%"
              width="100%"
              textAlign="center"
              color="onPicture"
              fontSize="16px"
            >
              Sequor cannot tell; open it to draw a reading.
            </Text>
          )
        )
      }
    </Pane>
  );
}

interface Size {
  width: number;
  height: number;
}

function Pane({ name, children }: { name: string; children: (size: Size) => ReactNode }) {
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
      _first={{ borderRightWidth: "2px", borderColor: "onPicture" }}
    >
      {size.width > 0 && children(size)}
    </Box>
  );
}

interface FramedProps {
  size: Size;
  reviewed: Reviewed;
  shown: Solution;
  pencilled?: boolean;
}

/** The frame of a solution, as large as the pane allows. */
function Framed({ size, reviewed, shown, pencilled = false }: FramedProps) {
  const { state, found } = reviewed;
  const { frame, homography } = shown;
  const zoom = Math.min(
    (size.width - 2 * MARGIN_PX) / frame.width,
    (size.height - 2 * MARGIN_PX) / frame.height,
  );
  const laid = product(scaling(zoom), translation(-frame.x, -frame.y), fromRows(homography));
  const [width, height] = [frame.width * zoom, frame.height * zoom];
  return (
    <Box
      position="absolute"
      overflow="hidden"
      left={`${(size.width - width) / 2}px`}
      top={`${(size.height - height) / 2}px`}
      width={`${width}px`}
      height={`${height}px`}
    >
      <ProxyPicture
        bench={{ state, shown }}
        laid={laid}
        alt={`${state.file.name}, ${pencilled ? "as it is" : "as it would be"}`}
        undistorted
      />
      {pencilled && (
        <SvgBox position="absolute" inset="0" width="100%" height="100%" fill="none">
          <PencilLines
            found={found}
            view={{ seen: "undistorted", toStage: (point: Point) => mapped(laid, point) }}
          />
        </SvgBox>
      )}
    </Box>
  );
}
