/* Many pictures, one after the other: each as it is, with the lines it proposes itself, beside what
   it would become. */
import { Flex, Kbd, Spinner, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { t } from "../shared/words";
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
  const ids = (query.get("pictures") ?? "").split(",").map(Number).filter(Boolean);
  const [want, setWant] = useState<Want>("any");
  const contents = useQuery({
    queryKey: ["set", setId],
    queryFn: () => taken(client.GET("/api/sets/{set_id}", { params: { path: { set_id: setId } } })),
  });
  const review = useReview(ids, want);
  const { narrow, upright, low } = useRoom();
  const { reviewed, waiting, decided, place } = review;
  useTitle(reviewed && t("{name}, review", { name: reviewed.state.file.name }));
  const back = () => navigate(`/sets/${setId}`);
  const open = () => ids[place] !== undefined && navigate(`/pictures/${ids[place]}`);
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
  if (!ids.length)
    return (
      <NotHere
        message={t(
          "No pictures were chosen to be levelled. Choose some on the contact sheet, then press Level.",
        )}
      />
    );

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
        label={t("The pictures are to be")}
        value={want}
        options={WANTS}
        width="130px"
        onChoose={setWant}
      />
      <Act
        name={review.offers && !review.takes ? t("Ink, though not sure") : t("Ink")}
        cap={review.offers && !review.takes ? "Shift Enter" : "Enter"}
        main={review.takes}
        onClick={() => review.take(true)}
        off={!review.offers}
      />
      {narrow && <Act name={t("Back")} cap="←" onClick={() => review.go(-1)} off={place === 0} />}
      {narrow && <Act name={t("Next")} cap="→" onClick={() => review.go(1)} off={review.atEnd} />}
      <Act name={t("Rub out")} cap="Backspace" onClick={review.refuse} off={review.atEnd} />
      <Act name={t("Open")} cap="O" onClick={open} off={review.atEnd} />
      <Act name={t("Undo")} cap="Ctrl Z" onClick={review.undo} off={decided.size === 0} />
    </Flex>
  );
  return (
    <Flex direction="column" height="100%">
      <PageHeader>
        <Brand narrow to={`/sets/${setId}`} title={t("Sequor")}>
          {t("review")}
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
            {review.atEnd
              ? t("The review is through")
              : (reviewed?.state.file.name ?? t("The picture is being read"))}
          </Text>
          {!review.atEnd && (
            <Text color="inkSoft" whiteSpace="nowrap">
              {t("{place} of {length}", { place: place + 1, length: ids.length })}
              {decision && `, ${DECIDED[decision]}`}
            </Text>
          )}
          {waiting && <Spinner size="xs" role="img" aria-label={t("The picture is being read")} />}
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
                aria-label={t("What was found")}
                lineHeight="1.4"
              >
                {reviewed?.found.words.summary}
              </Text>
              <Text color="inkSoft" whiteSpace="nowrap">
                {reviewed?.draft && t("It {keeps}", { keeps: reviewed.draft.report.cost.kept })}
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
