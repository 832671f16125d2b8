/* Where pictures will be, while it is not known which. */
import { Box, Grid } from "@chakra-ui/react";
import { t } from "../shared/words";
import { CARD_PX, GAP_PX, LEAST_WIDTH_PX } from "./PictureGrid";

const CARDS = 6;

export function ComingCards() {
  return (
    <Grid
      role="status"
      aria-label={t("The pictures are coming…")}
      templateColumns={`repeat(auto-fill, minmax(${LEAST_WIDTH_PX}px, 1fr))`}
      gap={`${GAP_PX}px`}
    >
      {Array.from({ length: CARDS }, (_, place) => (
        <Box key={place} height={`${CARD_PX}px`} bg="paperDeep" borderRadius="4px" />
      ))}
    </Grid>
  );
}
