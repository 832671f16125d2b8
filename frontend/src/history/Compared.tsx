/* An entry of the ledger against the one that holds. */
import { Flex } from "@chakra-ui/react";
import { t } from "../shared/words";
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
        <Pane name={t("Holds now")}>
          {(size) => (
            <>
              <FramedPicture
                size={size}
                shot={shotOf(present)}
                alt={t("{name}, as it is", { name: present.file.name })}
              />
              <PictureTag>{t("as it is now; choose an entry to look at it")}</PictureTag>
            </>
          )}
        </Pane>
      </Flex>
    );
  return (
    <TwoPictures
      first={{ shot: shotOf(chosen), name: t("chosen entry"), pane: t("Chosen entry") }}
      second={{ shot: shotOf(present), name: t("holds now"), pane: t("Holds now") }}
      way={way}
    />
  );
}
