/* The top of the contact sheet: the set, finding and ordering its pictures, adding some. */
import { Button, Flex, Spacer, Text } from "@chakra-ui/react";
import { t, tn } from "../shared/words";
import type { SetContents } from "../api/client";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { QuietButton } from "../shared/Part";
import { SchemeButton } from "../shared/SchemeButton";
import { useRoom } from "../shared/useWindow";
import type { Arrangement } from "./arranging";
import { Finding } from "./Finding";

interface Props {
  set: SetContents | undefined;
  /** How many of the pictures are shown. */
  shown: number;
  pictures: number;
  onSet: (() => void) | undefined;
  arrangement: Arrangement;
  onArrange: (arrangement: Arrangement) => void;
  onChooseAll: (() => void) | undefined;
  onAdd: (() => void) | undefined;
  /** Whether the list of sets is shown where it has no place of its own. */
  listed: boolean;
  onList: () => void;
}

export function SheetHeader({
  set,
  shown,
  pictures,
  onSet,
  arrangement,
  onArrange,
  onChooseAll,
  onAdd,
  listed,
  onList,
}: Props) {
  const { narrow, slim } = useRoom();
  const name = (
    <>
      <Text
        as="h1"
        fontSize="16px"
        fontWeight="600"
        truncate
        minWidth="80px"
        title={set?.description || set?.name}
      >
        {set?.name}
      </Text>
      <Text color="inkSoft" whiteSpace="nowrap">
        {set &&
          (shown < pictures
            ? tn("{shown} of {n} picture", "{shown} of {n} pictures", pictures, { shown })
            : tn("{n} picture", "{n} pictures", pictures))}
      </Text>
    </>
  );
  const theSet = onSet && (
    <QuietButton
      height={narrow ? "30px" : undefined}
      title={t("Rename, describe, order, merge, archive or throw away this set")}
      onClick={onSet}
    >
      {t("The set…")}
    </QuietButton>
  );
  const finding = pictures > 0 && <Finding arrangement={arrangement} onChange={onArrange} />;
  const all = onChooseAll && (
    <QuietButton height="30px" title={t("Ctrl A")} onClick={onChooseAll}>
      {t("Choose all")}
    </QuietButton>
  );
  const add = onAdd && (
    <Button
      size="xs"
      height="30px"
      px="14px"
      bg="verdigris"
      color="onVerdigris"
      flexShrink={0}
      onClick={onAdd}
    >
      {slim ? t("Add") : t("Add pictures")}
    </Button>
  );
  if (!narrow)
    return (
      <PageHeader>
        <Brand narrow to="/" title={t("Sequor")}>
          {t("contact sheet")}
        </Brand>
        <Flex flex="1" align="center" gap="12px" px="14px" minWidth="0">
          {name}
          {theSet}
        </Flex>
        <Flex align="center" gap="8px" px="16px">
          {finding}
          {all}
          {add}
          <SchemeButton />
        </Flex>
      </PageHeader>
    );
  return (
    <>
      <PageHeader>
        <Flex flex="1" align="center" gap="10px" px="10px" minWidth="0">
          <QuietButton height="30px" aria-expanded={listed} onClick={onList}>
            {t("Sets")}
          </QuietButton>
          {name}
          <Spacer />
          {add}
        </Flex>
      </PageHeader>
      <Flex
        role="search"
        aria-label={t("Finding pictures")}
        align="center"
        gap="6px"
        px="10px"
        py="5px"
        wrap="wrap"
        bg="sheet"
        borderBottomWidth="1px"
        borderColor="rule"
      >
        {finding}
        {theSet}
        {all}
        <Spacer />
        <SchemeButton />
      </Flex>
    </>
  );
}
