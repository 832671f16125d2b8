/* Many pictures, one after the other: each as it is, with the lines it proposes itself, beside what
   it would become. */
import { Flex, Kbd, Spinner, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { client, taken, type Want } from "../api/client";
import { WANTS } from "../bench/pencil/PencilPart";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { useTitle } from "../shared/useTitle";
import { useRoom } from "../shared/useWindow";
import { useKeys } from "../shared/keys";
import { NotHere } from "../shared/NotHere";
import { Choice, QuietButton } from "../shared/Part";
import { ProblemBar } from "../shared/ProblemBar";
import { AsItIs, AsItWouldBe } from "./Panes";
import { ReviewEnd } from "./ReviewEnd";
import { ReviewStrip } from "./ReviewStrip";
import { DECIDED, useReview } from "./useReview";

export function ReviewPage() {
  const setId = Number(useParams().setId);
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const ids = (query.get("pictures") ?? "").split(",").map(Number).filter(Boolean);
  const [want, setWant] = useState<Want>("any");
  const contents = useQuery({
    queryKey: ["set", setId],
    queryFn: () => taken(client.GET("/api/sets/{set_id}", { params: { path: { set_id: setId } } })),
  });
  const review = useReview(ids, want);
  const { narrow, upright, low } = useRoom();
  const { reviewed, waiting, decided, place } = review;
  useTitle(reviewed && `${reviewed.state.file.name}, review`);
  const back = () => void navigate(`/sets/${setId}`);
  const open = () => ids[place] !== undefined && void navigate(`/pictures/${ids[place]}`);
  useKeys(["enter"], (event) => {
    event.preventDefault();
    review.take(event.shiftKey);
  });
  useKeys(["backspace", "delete"], review.refuse);
  useKeys(["arrowright"], () => review.go(1));
  useKeys(["arrowleft"], () => review.go(-1));
  useKeys(["o"], open);
  useKeys(["escape"], back);
  useKeys(["z"], review.undo, { ctrl: true });
  if (!ids.length) return <NotHere message="No pictures were chosen to be levelled." />;

  const summaries = new Map(contents.data?.pictures.map((picture) => [picture.id, picture]));
  const decision = decided.get(ids[place] as number);
  const acts = (
    <Flex
      align="center"
      wrap="wrap"
      rowGap="5px"
      columnGap={{ base: "5px", xl: "8px" }}
      px={{ base: "8px", xl: "16px" }}
    >
      <Choice
        label="The pictures are to be"
        value={want}
        options={WANTS}
        width="130px"
        onChoose={setWant}
      />
      <Act
        name={review.offers && !review.takes ? "Ink, though not sure" : "Ink"}
        cap={review.offers && !review.takes ? "Shift Enter" : "Enter"}
        main={review.takes}
        onClick={() => review.take(true)}
        off={!review.offers}
      />
      {narrow && <Act name="Back" cap="←" onClick={() => review.go(-1)} off={place === 0} />}
      {narrow && <Act name="Next" cap="→" onClick={() => review.go(1)} off={review.atEnd} />}
      <Act name="Rub out" cap="Backspace" onClick={review.refuse} off={review.atEnd} />
      <Act name="Open" cap="O" onClick={open} off={review.atEnd} />
      <Act name="Undo" cap="Ctrl Z" onClick={review.undo} off={decided.size === 0} />
    </Flex>
  );
  return (
    <Flex direction="column" height="100%">
      <PageHeader>
        <Brand narrow to={`/sets/${setId}`} title="Sequor">
          review
        </Brand>
        <Flex flex="1" align="center" gap="14px" px="20px" minWidth="0">
          <Text
            as="h1"
            fontSize="16px"
            fontWeight="600"
            minWidth="90px"
            truncate
            title={reviewed?.state.file.name}
          >
            {review.atEnd ? "The review is through" : reviewed?.state.file.name}
          </Text>
          {!review.atEnd && (
            <Text color="inkSoft" whiteSpace="nowrap">
              {place + 1} of {ids.length}
              {decision && `, ${DECIDED[decision]}`}
            </Text>
          )}
          {waiting && <Spinner size="xs" aria-label="The picture is being read" />}
        </Flex>
        {!narrow && acts}
      </PageHeader>
      <Flex as="main" direction="column" flex="1" minHeight="0">
        {review.problem && <ProblemBar message={review.problem} onClose={review.dismiss} />}
        {review.atEnd ? (
          <ReviewEnd {...{ ids, summaries, decided }} onGo={review.goTo} onBack={back} />
        ) : (
          <>
            <Flex flex="1" minHeight="0" bg="stage" direction={upright ? "column" : "row"}>
              <AsItIs reviewed={reviewed} />
              <AsItWouldBe reviewed={reviewed} />
            </Flex>
            <Flex
              px={narrow ? "12px" : "20px"}
              py={low ? "4px" : "10px"}
              columnGap="24px"
              wrap={narrow ? "wrap" : undefined}
              minHeight={low ? undefined : "62px"}
              borderTopWidth="1px"
              borderColor="rule"
              bg="sheet"
            >
              <Text
                flex={narrow ? "1 1 280px" : "1"}
                role="status"
                aria-label="What was found"
                lineHeight="1.4"
              >
                {reviewed?.found.words.summary}
              </Text>
              <Text color="inkSoft" whiteSpace="nowrap">
                {reviewed?.draft && `It ${reviewed.draft.report.cost.kept}`}
              </Text>
            </Flex>
          </>
        )}
        {narrow && (
          <Flex py="7px" justify="center" borderTopWidth="1px" borderColor="rule" bg="sheet">
            {acts}
          </Flex>
        )}
        {!low && <ReviewStrip {...{ ids, place, summaries, decided }} onGo={review.goTo} />}
      </Flex>
    </Flex>
  );
}

interface ActProps {
  name: string;
  cap: string;
  onClick: () => void;
  main?: boolean;
  off?: boolean;
}

function Act({ name, cap, onClick, main, off = false }: ActProps) {
  return (
    <QuietButton
      height="30px"
      gap="7px"
      title={cap}
      disabled={off}
      {...(main ? { bg: "verdigris", color: "onVerdigris", borderColor: "verdigris" } : {})}
      onClick={onClick}
    >
      {name}
      <Kbd
        bg="paperDeep"
        color="ink"
        fontSize="10.5px"
        px="5px"
        display={{ base: "none", xl: "inline-flex" }}
      >
        {cap}
      </Kbd>
    </QuietButton>
  );
}
