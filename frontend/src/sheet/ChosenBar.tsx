/* How many pictures are chosen, and what can be done with them. */
import { Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { navigate } from "wouter/use-browser-location";
import { t, tn } from "../shared/words";
import type { RightWord } from "../api/client";
import { QuietButton } from "../shared/Part";

interface Props {
  setId: number;
  /** What may be done with the set. */
  may: (right: RightWord) => boolean;
  ids: number[];
  onExport: () => void;
  onInto: (way: "move" | "copy" | "split") => void;
  onBin: () => void;
  onNone: () => void;
}

export function ChosenBar(props: Props) {
  const { setId, may, ids, onExport, onInto, onBin, onNone } = props;
  const list = ids.join(",");
  const count = ids.length;
  const [works, exports, owns] = [may("work"), may("export"), may("own")];
  return (
    <Flex
      role="group"
      aria-label={t("Chosen pictures")}
      align="center"
      gap="8px"
      px={{ base: "10px", lg: "20px" }}
      py="9px"
      bg="highlight"
      borderBottomWidth="1px"
      borderColor="rule"
      flexShrink={0}
      wrap="wrap"
    >
      <Text fontWeight="600" mr="6px" whiteSpace="nowrap">
        {tn("{n} picture chosen", "{n} pictures chosen", count)}
      </Text>
      {works && (
        <>
          <QuietButton
            borderColor="verdigris"
            color="verdigris"
            title={t("Have these pictures read, and look at what they propose one after the other")}
            onClick={() => navigate(`/sets/${setId}/review?pictures=${list}`)}
          >
            {t("Level {count} chosen", { count })}
          </QuietButton>
          <QuietButton
            borderColor="verdigris"
            color="verdigris"
            title={t("Lens, stance or frame of one of them for all others")}
            disabled={count < 2}
            onClick={() => navigate(`/sets/${setId}/carry?pictures=${list}`)}
          >
            {t("Carry over")}
          </QuietButton>
        </>
      )}
      {exports && (
        <QuietButton borderColor="verdigris" color="verdigris" onClick={onExport}>
          {t("Export {count} chosen", { count })}
        </QuietButton>
      )}
      {owns && <QuietButton onClick={() => onInto("move")}>{t("Move to…")}</QuietButton>}
      {exports && <QuietButton onClick={() => onInto("copy")}>{t("Copy to…")}</QuietButton>}
      {owns && <QuietButton onClick={() => onInto("split")}>{t("New set of these…")}</QuietButton>}
      {exports && (
        <QuietButton asChild title={t("The originals with their recipes and ledgers, as a ZIP")}>
          <Anchor
            href={`/api/pictures.zip?ids=${list}`}
            download
            _hover={{ textDecoration: "none" }}
          >
            {t("Archive")}
          </Anchor>
        </QuietButton>
      )}
      {works && (
        <QuietButton
          color="brick"
          title={t("They can be taken back for some time (Delete)")}
          onClick={onBin}
        >
          {t("To the bin")}
        </QuietButton>
      )}
      <QuietButton ml="auto" onClick={onNone}>
        {t("Choose none")}
      </QuietButton>
    </Flex>
  );
}
