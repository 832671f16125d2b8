/* An entry of the ledger against the one that holds. */
import { Flex } from "@chakra-ui/react";
import { FramedPicture, Pane } from "../picture/FramedPicture";
import { PictureTag, TwoPictures, type Way } from "../picture/TwoPictures";
import { shotOf, useEntry } from "./useEntry";

interface Props {
  pictureId: number;
  looked: number;
  head: number;
  way: Way;
}

export function Compared({ pictureId, looked, head, way }: Props) {
  const chosen = useEntry(pictureId, looked);
  const present = useEntry(pictureId, head);
  if (!chosen || !present) return null;
  if (looked === head)
    return (
      <Flex position="absolute" inset="0">
        <Pane name="Holds now">
          {(size) => (
            <>
              <FramedPicture
                size={size}
                shot={shotOf(present)}
                alt={`${present.file.name}, as it is`}
              />
              <PictureTag>as it is now; choose an entry to look at it</PictureTag>
            </>
          )}
        </Pane>
      </Flex>
    );
  return (
    <TwoPictures
      first={{ shot: shotOf(chosen), name: "chosen entry", pane: "Chosen entry" }}
      second={{ shot: shotOf(present), name: "holds now", pane: "Holds now" }}
      way={way}
    />
  );
}
