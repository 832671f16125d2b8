/* The top of the contact sheet: the set, finding and ordering its pictures, adding some. */
import { Button, Flex, Text } from "@chakra-ui/react";
import type { SetContents } from "../api/client";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { QuietButton } from "../shared/Part";
import { SchemeButton } from "../shared/SchemeButton";
import { countWords } from "../shared/times";
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
  onAdd: () => void;
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
}: Props) {
  return (
    <PageHeader>
      <Brand narrow to="/" title="Sequor">
        contact sheet
      </Brand>
      <Flex flex="1" align="center" gap="12px" px="14px" minWidth="0">
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
              ? `${shown} of ${countWords(pictures, "picture")}`
              : countWords(pictures, "picture"))}
        </Text>
        {onSet && (
          <QuietButton
            title="Rename, describe, order, merge, archive or throw away this set"
            onClick={onSet}
          >
            The set…
          </QuietButton>
        )}
      </Flex>
      <Flex align="center" gap="8px" px="16px">
        {pictures > 0 && <Finding arrangement={arrangement} onChange={onArrange} />}
        {onChooseAll && (
          <QuietButton height="30px" title="Ctrl A" onClick={onChooseAll}>
            Choose all
          </QuietButton>
        )}
        <Button
          size="xs"
          height="30px"
          px="14px"
          bg="verdigris"
          color="onVerdigris"
          onClick={onAdd}
        >
          Add pictures
        </Button>
        <SchemeButton />
      </Flex>
    </PageHeader>
  );
}
