/* What every picture would become, and what does not fit it. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useRef } from "react";
import { decimal, t } from "../shared/words";
import type { CarryLook } from "../api/client";
import { FramedPicture } from "../picture/FramedPicture";
import { useRoom } from "../shared/useWindow";
import { Virtualizer } from "virtua";

const ROW_PX = 132;
const SHOWN = { width: 176, height: 116 };
const SLIM = { width: 116, height: 116 };

export function Targets({ looks }: { looks: CarryLook[] }) {
  const scroller = useRef<HTMLDivElement>(null);
  return (
    <Box
      ref={scroller}
      flex="1"
      overflowY="auto"
      role="list"
      aria-label={t("Targets")}
      tabIndex={0}
    >
      <Virtualizer data={looks} scrollRef={scroller} itemSize={ROW_PX}>
        {(look) => (
          <Box key={look.picture_id} height={`${ROW_PX}px`}>
            <TargetRow look={look} />
          </Box>
        )}
      </Virtualizer>
    </Box>
  );
}

function TargetRow({ look }: { look: CarryLook }) {
  const { shown } = look;
  const { slim } = useRoom();
  const room = slim ? SLIM : SHOWN;
  return (
    <Flex
      role="listitem"
      aria-label={look.name}
      height="100%"
      align="center"
      gap={slim ? "10px" : "18px"}
      px={slim ? "10px" : "20px"}
      borderBottomWidth="1px"
      borderColor="ruleFaint"
    >
      <Box position="relative" bg="stage" flexShrink={0} overflow="hidden" style={room}>
        <FramedPicture
          size={room}
          margin={6}
          shot={{ state: shown, shown: shown.solution }}
          alt={t("{name}, as it would be", { name: look.name })}
        />
      </Box>
      <Box
        flex="1"
        minWidth="0"
        lineHeight={slim ? "1.3" : "1.5"}
        fontSize={slim ? "12px" : undefined}
      >
        <Text fontWeight="600" truncate title={look.name}>
          {look.name}
        </Text>
        <Text color="inkSoft">{look.before_words}</Text>
        {look.changes ? (
          <Text color="verdigris" fontWeight="500">
            {t("becomes: {after_words}", { after_words: look.after_words })}
          </Text>
        ) : (
          !look.problem && <Text color="inkSoft">{t("nothing changes")}</Text>
        )}
        {[...look.misfits, look.problem].filter(Boolean).map((words) => (
          <Text key={words} color="brick">
            {words}
          </Text>
        ))}
      </Box>
      <Text
        fontFamily="mono"
        fontSize={slim ? "11px" : "12px"}
        color="inkSoft"
        textAlign="right"
        flexShrink={0}
      >
        {t("keeps {share}", { share: percent(look.kept_before) })}
        {look.changes && (
          <>
            <br />
            {t("then {share}", { share: percent(look.kept_after) })}
          </>
        )}
      </Text>
    </Flex>
  );
}

const percent = (share: number) => `${decimal(share * 100, 1)} %`;
