/* The two halves of a review: the picture as it holds now, and as it would be. */
import { Text } from "@chakra-ui/react";
import { t } from "../shared/words";
import { PencilLines } from "../picture/PencilLines";
import { FramedPicture, Pane } from "../picture/FramedPicture";
import { SvgBox } from "../shared/SvgBox";
import type { Reviewed } from "./proposed";

/** The picture as it is, with the lines that it proposes in pencil. */
export function AsItIs({ reviewed }: { reviewed: Reviewed | undefined }) {
  return (
    <Pane name={t("As it is")}>
      {(size) =>
        reviewed && (
          <FramedPicture
            size={size}
            shot={{ state: reviewed.state, shown: reviewed.state.solution }}
            alt={t("{name}, as it is", { name: reviewed.state.file.name })}
          >
            {(place) => (
              <SvgBox position="absolute" inset="0" width="100%" height="100%" fill="none">
                <PencilLines found={reviewed.found} lay={place} />
              </SvgBox>
            )}
          </FramedPicture>
        )
      }
    </Pane>
  );
}

/** The picture as it would be; words where there is nothing to take. */
export function AsItWouldBe({ reviewed }: { reviewed: Reviewed | undefined }) {
  return (
    <Pane name={t("As it would be")}>
      {(size) =>
        reviewed?.draft ? (
          <FramedPicture
            size={size}
            shot={{ state: reviewed.state, shown: reviewed.draft.solution }}
            alt={t("{name}, as it would be", { name: reviewed.state.file.name })}
          />
        ) : (
          reviewed && (
            <Text
              position="absolute"
              top="50%"
              left="50%"
              transform="translate(-50%, -50%)"
              width="max-content"
              maxWidth="94%"
              px="14px"
              py="7px"
              borderRadius="4px"
              textAlign="center"
              bg="inkOnPicture"
              color="onPicture"
            >
              {t("Sequor cannot tell; open it to draw a reading.")}
            </Text>
          )
        )
      }
    </Pane>
  );
}
