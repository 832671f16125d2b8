/* Whether a line lies on the edge under it, to be pressed; what the camera told lies on none. */
import { Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Reading, ReadingWords, SolvedReading } from "../../api/client";
import { Toggle } from "./Toggle";

interface Props {
  solved: SolvedReading;
  reading: Reading;
  words: ReadingWords;
  onFit: (id: string, fit: boolean) => void;
}

export function FitToggle({ solved, reading, words, onFit }: Props) {
  const fitted = solved.stations !== null;
  if (reading.camera)
    return (
      <Text as="span" fontFamily="body" fontSize="11px" color="inkSoft" title={words.placed}>
        {t("camera")}
      </Text>
    );
  return (
    <Toggle
      small
      on={fitted}
      label={t("Fit reading {number} to the edge", { number: solved.number })}
      title={
        fitted
          ? t("{placed}; press for the line as drawn", { placed: words.placed })
          : t("placed by hand; press to fit it to the edge")
      }
      onClick={() => onFit(solved.id, !fitted)}
    >
      {t("fit")}
    </Toggle>
  );
}
