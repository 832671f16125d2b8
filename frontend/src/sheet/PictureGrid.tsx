/* The pictures of a set in rows; only the rows that are seen are there. */
import { Box, Grid } from "@chakra-ui/react";
import { useRef, type KeyboardEvent, type ReactNode } from "react";
import { Virtualizer, type VirtualizerHandle } from "virtua";
import type { PictureSummary, Remark } from "../api/client";
import { useSize } from "../picture/useSize";
import { arrow } from "../shared/keys";
import type { Group } from "./arranging";
import { PictureCard } from "./PictureCard";
import type { Selection } from "./useSelection";

export const LEAST_WIDTH_PX = 288;
export const GAP_PX = 18;
export const CARD_PX = 286;
const PADDING_PX = 20;
/** So far beyond what is seen pictures are ready when a wheel turns. */
const AHEAD_PX = 1800;

interface Props {
  groups: Group[];
  unfolded: ReadonlySet<string>;
  onUnfold: (group: string) => void;
  selection: Selection;
  remarks: Remark[];
  /** Whether the pictures may only be looked at. */
  lookOnly: boolean;
  /** Above the pictures, scrolled with them. */
  children: ReactNode;
}

interface Place {
  picture: PictureSummary;
  versions: number;
  more: boolean;
}

export function PictureGrid(props: Props) {
  const { groups, unfolded, onUnfold, selection, remarks, lookOnly, children } = props;
  const [scroller, size] = useSize<HTMLDivElement>();
  const [above, aboveSize] = useSize<HTMLDivElement>();
  const places: Place[] = groups.flatMap(({ first, others }) => [
    { picture: first, versions: others.length + 1, more: false },
    ...(unfolded.has(first.group)
      ? others.map((picture) => ({ picture, versions: 0, more: true }))
      : []),
  ]);
  const room = size.width - 2 * PADDING_PX;
  const columns = Math.max(1, Math.floor((room + GAP_PX) / (LEAST_WIDTH_PX + GAP_PX)));
  const handle = useRef<VirtualizerHandle>(null);
  const rows = Array.from({ length: Math.ceil(places.length / columns) }, (_, row) =>
    places.slice(row * columns, (row + 1) * columns),
  );

  // Arrows go from card to card.
  const onKeyDown = (event: KeyboardEvent<HTMLDivElement>) => {
    const way = arrow(event);
    const at = (event.target as HTMLElement).closest<HTMLElement>("[data-place]")?.dataset.place;
    if (!way || at === undefined) return;
    const next = Number(at) + way[0] + way[1] * columns;
    if (next < 0 || next >= places.length) return;
    event.preventDefault();
    handle.current?.scrollToIndex(Math.floor(next / columns), { align: "nearest" });
    requestAnimationFrame(() =>
      scroller.current
        ?.querySelector<HTMLElement>(`[data-place="${next}"] a`)
        ?.focus({ preventScroll: true }),
    );
  };

  return (
    <Box
      ref={scroller}
      as="main"
      flex="1"
      minWidth="0"
      overflowY="auto"
      p={`${PADDING_PX}px`}
      position="relative"
      onKeyDown={onKeyDown}
    >
      <Box ref={above}>{children}</Box>
      {size.width > 0 && (
        <Virtualizer
          ref={handle}
          data={rows}
          scrollRef={scroller}
          startMargin={PADDING_PX + aboveSize.height}
          itemSize={CARD_PX + GAP_PX}
          bufferSize={AHEAD_PX}
        >
          {(row, index) => (
            <Grid
              key={row[0]?.picture.id ?? index}
              templateColumns={`repeat(${columns}, minmax(0, 1fr))`}
              columnGap={`${GAP_PX}px`}
              height={`${CARD_PX + GAP_PX}px`}
              pb={`${GAP_PX}px`}
            >
              {row.map(({ picture, versions, more }, column) => (
                <Box
                  key={picture.id}
                  data-place={index * columns + column}
                  height="100%"
                  minWidth="0"
                >
                  <PictureCard
                    picture={picture}
                    versions={versions}
                    more={more}
                    unfolded={unfolded.has(picture.group)}
                    onUnfold={() => onUnfold(picture.group)}
                    chosen={selection.chosen.has(picture.id)}
                    onChoose={(on, range) => selection.choose(picture.id, on, range)}
                    remark={remarks.find((one) => one.picture_id === picture.id)}
                    lookOnly={lookOnly}
                  />
                </Box>
              ))}
            </Grid>
          )}
        </Virtualizer>
      )}
    </Box>
  );
}
