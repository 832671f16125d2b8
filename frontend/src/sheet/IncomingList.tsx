/* Files on their way in: progress of the whole and of each, or the reason why one was refused. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t, tn } from "../shared/words";
import { Choice, QuietButton } from "../shared/Part";
import { isOpen, type Incoming, type Uploads } from "./useUploads";
import { ThinBar } from "../shared/ThinBar";

const OUTCOMES: Record<Incoming["outcome"], string> = {
  waiting: t("waiting"),
  sending: t("sending"),
  reading: t("reading"),
  added: t("added"),
  known: t("known already"),
  refused: t("refused"),
  "called off": t("called off"),
};
/** So many lines are shown unasked; of more, those that say something. */
const MANY = 8;

export function IncomingList({ uploads }: { uploads: Uploads }) {
  const [unfolded, setUnfolded] = useState<boolean>();
  const { incoming } = uploads;
  const open = incoming.filter(isOpen);
  const refused = incoming.filter(({ outcome }) => outcome === "refused").length;
  const done = incoming.length - open.length;
  const few = incoming.length <= MANY;
  const shown = unfolded ?? (few || open.length > 0);
  const lines =
    few || unfolded
      ? incoming
      : [
          ...incoming.filter(({ outcome }) => outcome === "refused"),
          ...open.filter(({ outcome }) => outcome !== "waiting"),
        ];
  return (
    <Box
      as="section"
      aria-label={t("Incoming files")}
      mb="18px"
      bg="sheet"
      borderWidth="1px"
      borderColor="rule"
      borderRadius="4px"
    >
      <Flex align="center" gap="16px" px="14px" py="8px">
        <Text fontWeight="600" width="220px" flexShrink={0} role="status">
          {tn("{done} of {n} file", "{done} of {n} files", incoming.length, { done })}
          {refused > 0 && t(", {refused} refused", { refused })}
        </Text>
        <ThinBar flex="1" label={t("Progress of all files")} share={done / incoming.length} />
        <Button size="xs" variant="ghost" color="ink" onClick={() => setUnfolded(!shown)}>
          {shown ? t("Fold away") : t("Show files")}
        </Button>
        {open.length > 0 ? (
          <Button size="xs" variant="ghost" color="brick" onClick={uploads.callOff}>
            {t("Call off the rest")}
          </Button>
        ) : (
          <Button size="xs" variant="ghost" color="verdigris" onClick={uploads.clear}>
            {t("Clear this list")}
          </Button>
        )}
      </Flex>
      {shown && (
        <Box maxHeight="320px" overflowY="auto">
          {lines.map((item) => (
            <Line key={item.key} item={item} uploads={uploads} />
          ))}
        </Box>
      )}
    </Box>
  );
}

interface LineProps {
  item: Incoming;
  uploads: Uploads;
}

function Line({ item, uploads }: LineProps) {
  const refused = item.outcome === "refused";
  return (
    <Flex align="center" gap="16px" px="14px" py="7px" borderTopWidth="1px" borderColor="ruleFaint">
      <Text width="220px" truncate title={item.name} flexShrink={0}>
        {item.name}
      </Text>
      {item.problem ? (
        <Text flex="1" color={refused ? "brick" : "inkSoft"} role={refused ? "alert" : undefined}>
          {item.problem}
        </Text>
      ) : (
        <ThinBar flex="1" label={t("Progress of {name}", { name: item.name })} share={item.share} />
      )}
      {item.asDamaged && (
        <QuietButton
          flexShrink={0}
          title={t("What cannot be read of it will be wrong; it stays marked as damaged")}
          onClick={() => uploads.takeAnyway(item.key)}
        >
          {t("Take it in as it is")}
        </QuietButton>
      )}
      {item.pages ? <Pages item={item} pages={item.pages} uploads={uploads} /> : null}
      <Text width="100px" textAlign="right" color="inkSoft" flexShrink={0}>
        {OUTCOMES[item.outcome]}
      </Text>
    </Flex>
  );
}

/** Which pages of a file are to be pictures. */
function Pages({ item, pages, uploads }: LineProps & { pages: number }) {
  const numbers = Array.from({ length: pages }, (_, index) => index + 1);
  const options = [
    { value: "", label: t("Take …") },
    ...numbers.map((page) => ({ value: String(page), label: t("page {page}", { page }) })),
    { value: "all", label: t("all {pages} pages", { pages }) },
  ];
  return (
    <Choice
      label={t("Pages of {name} to take", { name: item.name })}
      width="130px"
      value=""
      options={options}
      onChoose={(chosen) =>
        chosen && uploads.takePages(item.key, chosen === "all" ? numbers : [Number(chosen)])
      }
    />
  );
}
