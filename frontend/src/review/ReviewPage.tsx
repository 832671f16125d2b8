/* Many pictures, one after the other: each as it is, with the lines it proposes itself, beside what
   it would become. */
import { Box, Button, Flex, Image, Kbd, Spinner, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { client, taken, type PictureSummary, type Want } from "../api/client";
import { WANTS } from "../bench/pencil/PencilPart";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { useKeys } from "../shared/keys";
import { NotHere } from "../shared/NotHere";
import { Choice, QuietButton } from "../shared/Part";
import { ProblemBar } from "../shared/ProblemBar";
import { AsItIs, AsItWouldBe } from "./Panes";
import { useReview, type Decision } from "./useReview";

const DECIDED: Record<Decision, string> = { taken: "inked", refused: "rubbed out" };

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
  const { reviewed, waiting, decided, place } = review;
  const back = () => void navigate(`/sets/${setId}`);
  const open = () => ids[place] !== undefined && void navigate(`/pictures/${ids[place]}`);
  useKeys(["enter"], (event) => {
    event.preventDefault();
    review.take();
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
  return (
    <Flex direction="column" height="100%">
      <PageHeader>
        <Brand to={`/sets/${setId}`} title="Sequor">
          review
        </Brand>
        <Flex flex="1" align="center" gap="14px" px="20px" minWidth="0">
          <Text as="h1" fontSize="16px" fontWeight="600" truncate>
            {reviewed?.state.file.name}
          </Text>
          <Text color="inkSoft" whiteSpace="nowrap">
            {place + 1} of {ids.length}
            {decision && `, ${DECIDED[decision]}`}
          </Text>
          {waiting && <Spinner size="xs" aria-label="The picture is being read" />}
        </Flex>
        <Flex align="center" gap="8px" px="16px">
          <Choice
            label="The pictures are to be"
            value={want}
            options={WANTS}
            width="190px"
            onChoose={setWant}
          />
          <Act name="Ink" cap="Enter" main onClick={review.take} off={!reviewed?.found.take} />
          <Act name="Rub out" cap="Backspace" onClick={review.refuse} />
          <Act name="Open" cap="O" onClick={open} />
        </Flex>
      </PageHeader>
      {review.problem && <ProblemBar message={review.problem} onClose={review.dismiss} />}
      <Flex flex="1" minHeight="0" bg="stage">
        <AsItIs reviewed={reviewed} />
        <AsItWouldBe reviewed={reviewed} />
      </Flex>
      <Flex
        px="20px"
        py="10px"
        gap="24px"
        minHeight="62px"
        borderTopWidth="1px"
        borderColor="rule"
        bg="sheet"
      >
        <Text flex="1" role="status" aria-label="What was found" lineHeight="1.4">
          {reviewed?.found.words.summary}
        </Text>
        <Text color="inkSoft" whiteSpace="nowrap">
          {reviewed?.draft && `It ${reviewed.draft.report.cost.kept}`}
        </Text>
      </Flex>
      <Strip {...{ ids, place, summaries, decided }} onGo={review.goTo} />
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
      disabled={off}
      {...(main ? { bg: "verdigris", color: "onVerdigris", borderColor: "verdigris" } : {})}
      onClick={onClick}
    >
      {name}
      <Kbd bg="paperDeep" color="ink" fontSize="10.5px" px="5px">
        {cap}
      </Kbd>
    </QuietButton>
  );
}

interface StripProps {
  ids: number[];
  place: number;
  summaries: Map<number, PictureSummary>;
  decided: ReadonlyMap<number, Decision>;
  onGo: (place: number) => void;
}

/** All pictures of the review, small, each with what it tells and what was decided. */
function Strip({ ids, place, summaries, decided, onGo }: StripProps) {
  return (
    <Flex
      as="nav"
      aria-label="Pictures of this review"
      gap="8px"
      px="20px"
      py="10px"
      overflowX="auto"
      flexShrink={0}
      borderTopWidth="1px"
      borderColor="rule"
    >
      {ids.map((id, index) => {
        const picture = summaries.get(id);
        const decision = decided.get(id);
        return (
          <Button
            key={id}
            variant="plain"
            height="auto"
            width="136px"
            flexShrink={0}
            p="4px"
            display="block"
            textAlign="left"
            borderWidth="1px"
            borderRadius="4px"
            borderColor={index === place ? "verdigris" : "rule"}
            bg={index === place ? "highlight" : "sheet"}
            aria-label={picture?.name}
            aria-current={index === place}
            onClick={() => onGo(index)}
          >
            <Box height="62px" bg="stage">
              <Image
                src={picture?.thumbnail}
                alt=""
                width="100%"
                height="100%"
                objectFit="contain"
              />
            </Box>
            <Text
              fontSize="11px"
              lineHeight="1.25"
              height="28px"
              mt="3px"
              fontWeight="400"
              whiteSpace="normal"
              color={decision === "taken" ? "verdigris" : "inkSoft"}
            >
              {decision ? DECIDED[decision] : picture?.told_words || picture?.turn_words}
            </Text>
          </Button>
        );
      })}
    </Flex>
  );
}
