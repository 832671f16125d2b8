/* How the last act is taken back, said for a moment at the top of the picture. */
import { Box } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { t } from "../shared/words";
import type { PictureState } from "../api/client";
import { useRoom } from "../shared/useWindow";

const SHOWN_MS = 4000;

export function UndoHint({ state }: { state: PictureState }) {
  const { coarse } = useRoom();
  const entry = state.entry_id;
  const [last, setLast] = useState(entry);
  const [shown, setShown] = useState(false);
  if (entry !== last) {
    setLast(entry);
    // What can be redone was taken back itself.
    setShown(state.can_undo && !state.can_redo);
  }
  useEffect(() => {
    if (!shown) return;
    const timer = setTimeout(() => setShown(false), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [shown, entry]);
  if (!shown) return null;
  return (
    <Box
      aria-hidden
      data-hint="undo"
      position="absolute"
      zIndex="2"
      top="8px"
      left="50%"
      transform="translateX(-50%)"
      px="8px"
      py="3px"
      borderRadius="4px"
      bg="ink"
      color="paper"
      fontSize="12px"
      whiteSpace="nowrap"
      pointerEvents="none"
    >
      {coarse ? t("↶ takes it back") : t("Ctrl Z takes it back")}
    </Box>
  );
}
