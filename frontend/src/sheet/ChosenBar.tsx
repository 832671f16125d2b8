/* How many pictures are chosen, and what can be done with them. */
import { Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { QuietButton } from "../shared/Part";
import { countWords } from "../shared/times";

interface Props {
  setId: number;
  ids: number[];
  onExport: () => void;
  onInto: (way: "move" | "copy" | "split") => void;
  onBin: () => void;
  onNone: () => void;
}

export function ChosenBar({ setId, ids, onExport, onInto, onBin, onNone }: Props) {
  const navigate = useNavigate();
  const list = ids.join(",");
  const count = ids.length;
  return (
    <Flex
      role="group"
      aria-label="Chosen pictures"
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
        {countWords(count, "picture")} chosen
      </Text>
      <QuietButton
        borderColor="verdigris"
        color="verdigris"
        title="Have these pictures read, and look at what they propose one after the other"
        onClick={() => void navigate(`/sets/${setId}/review?pictures=${list}`)}
      >
        Level {count} chosen
      </QuietButton>
      <QuietButton
        borderColor="verdigris"
        color="verdigris"
        title="Lens, stance or frame of one of them for all others"
        disabled={count < 2}
        onClick={() => void navigate(`/sets/${setId}/carry?pictures=${list}`)}
      >
        Carry over
      </QuietButton>
      <QuietButton borderColor="verdigris" color="verdigris" onClick={onExport}>
        Export {count} chosen
      </QuietButton>
      <QuietButton onClick={() => onInto("move")}>Move to…</QuietButton>
      <QuietButton onClick={() => onInto("copy")}>Copy to…</QuietButton>
      <QuietButton onClick={() => onInto("split")}>New set of these…</QuietButton>
      <QuietButton asChild title="The originals with their recipes and ledgers, as a ZIP">
        <Anchor href={`/api/pictures.zip?ids=${list}`} download _hover={{ textDecoration: "none" }}>
          Archive
        </Anchor>
      </QuietButton>
      <QuietButton
        color="brick"
        title="They can be taken back for some time (Delete)"
        onClick={onBin}
      >
        To the bin
      </QuietButton>
      <QuietButton ml="auto" onClick={onNone}>
        Choose none
      </QuietButton>
    </Flex>
  );
}
