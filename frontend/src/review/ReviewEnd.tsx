/* The end of a review: what was done, what was passed over, what is not sure; and the way on. */
import { Box, Button, Flex, Image, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t, tn } from "../shared/words";
import type { PictureSummary } from "../api/client";
import { ExportSeveral } from "../sheet/ExportSeveral";
import { QuietButton } from "../shared/Part";
import type { Decision } from "./useReview";

interface Props {
  ids: number[];
  summaries: Map<number, PictureSummary>;
  decided: ReadonlyMap<number, Decision>;
  onGo: (place: number) => void;
  onBack: () => void;
}

export function ReviewEnd({ ids, summaries, decided, onGo, onBack }: Props) {
  const [exporting, setExporting] = useState(false);
  const of = (wanted: (id: number) => boolean) => ids.filter(wanted);
  const open = (id: number) => !decided.has(id);
  const unsure = (id: number) => open(id) && summaries.get(id)?.told === "unsure";
  const groups: [string, number[]][] = [
    [t("Inked"), of((id) => decided.get(id) === "taken")],
    [t("Rubbed out"), of((id) => decided.get(id) === "refused")],
    [t("Not sure, so left as they are"), of(unsure)],
    [t("Passed over"), of((id) => open(id) && !unsure(id))],
  ];
  const done = (groups[0]?.[1] ?? []).flatMap((id) => summaries.get(id) ?? []);
  return (
    <Box flex="1" overflowY="auto" p="24px" role="region" aria-label={t("The end of the review")}>
      <Flex align="center" gap="12px" mb="18px">
        <Text as="h2" fontSize="18px" fontWeight="600">
          {tn("{n} picture looked at", "{n} pictures looked at", ids.length)}
        </Text>
        {done.length > 0 && (
          <QuietButton
            height="30px"
            bg="verdigris"
            color="onVerdigris"
            onClick={() => setExporting(true)}
          >
            {t("Export what is done ({length})", { length: done.length })}
          </QuietButton>
        )}
        <QuietButton height="30px" onClick={onBack}>
          {t("To the sheet")}
        </QuietButton>
      </Flex>
      {groups.map(
        ([name, members]) =>
          members.length > 0 && (
            <Box as="section" key={name} aria-label={name} mb="18px">
              <Text fontWeight="600" mb="6px">
                {name}: {members.length}
              </Text>
              <Flex gap="10px" wrap="wrap" align="flex-start">
                {members.map((id) => (
                  <Button
                    key={id}
                    variant="plain"
                    height="auto"
                    width="172px"
                    p="4px"
                    display="block"
                    textAlign="left"
                    borderWidth="1px"
                    borderColor="rule"
                    borderRadius="4px"
                    bg="sheet"
                    onClick={() => onGo(ids.indexOf(id))}
                  >
                    <Box height="92px" bg="stage">
                      <Image
                        src={summaries.get(id)?.thumbnail}
                        alt=""
                        width="100%"
                        height="100%"
                        objectFit="contain"
                      />
                    </Box>
                    <Text fontSize="12px" truncate mt="3px" title={summaries.get(id)?.name}>
                      {summaries.get(id)?.name}
                    </Text>
                    <Text fontSize="11px" color="inkSoft" fontWeight="400" whiteSpace="normal">
                      {summaries.get(id)?.told_words || summaries.get(id)?.turn_words}
                    </Text>
                  </Button>
                ))}
              </Flex>
            </Box>
          ),
      )}
      {exporting && (
        <ExportSeveral
          pictures={done}
          onClose={() => setExporting(false)}
          onDone={() => undefined}
        />
      )}
    </Box>
  );
}
