/* The contact sheet: sets on the left, the pictures of one set on the right; files can be dropped
   anywhere. */
import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useDropzone } from "react-dropzone";
import { useNavigate, useParams } from "react-router";
import { client, Refused, taken } from "../api/client";
import { Brand } from "../shared/Brand";
import { PageHeader } from "../shared/PageHeader";
import { ProblemBar } from "../shared/ProblemBar";
import { SchemeButton } from "../shared/SchemeButton";
import { QuietButton } from "../shared/Part";
import { ExportSeveral } from "./ExportSeveral";
import { IncomingList } from "./IncomingList";
import { PictureCard } from "./PictureCard";
import { SetList } from "./SetList";
import { useUploads } from "./useUploads";

const READ_MS = 3000;
const FIRST_SET = "First pictures";

export function SheetPage() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [dismissed, setDismissed] = useState<string>();
  const [chosenPictures, setChosenPictures] = useState<ReadonlySet<number>>(new Set());
  const [exporting, setExporting] = useState(false);
  const sets = useQuery({ queryKey: ["sets"], queryFn: () => taken(client.GET("/api/sets")) });
  const chosen = useParams().setId;
  const setId = chosen ? Number(chosen) : sets.data?.sets[0]?.id;
  const contents = useQuery({
    queryKey: ["set", setId],
    enabled: setId !== undefined,
    queryFn: () =>
      taken(client.GET("/api/sets/{set_id}", { params: { path: { set_id: setId as number } } })),
    // What is read in the background is shown as it comes.
    refetchInterval: (query) =>
      query.state.data?.pictures.some(({ told, state }) => told === "unread" && state === "new") &&
      READ_MS,
  });
  const refresh = useCallback(() => {
    void queries.invalidateQueries({ queryKey: ["set", setId] });
    void queries.invalidateQueries({ queryKey: ["sets"] });
  }, [queries, setId]);
  const targetSet = useCallback(async () => {
    if (setId !== undefined) return setId;
    const made = await taken(client.POST("/api/sets", { body: { name: FIRST_SET } }));
    await queries.invalidateQueries({ queryKey: ["sets"] });
    return made.id;
  }, [queries, setId]);
  const uploads = useUploads(targetSet, refresh);
  const drop = useDropzone({
    onDrop: (files) => void uploads.add(files),
    noClick: true,
    noKeyboard: true,
  });

  // Choices are of one set: those of another one are not shown, and not exported.
  const selected = (contents.data?.pictures ?? []).filter((picture) =>
    chosenPictures.has(picture.id),
  );
  const choose = (id: number, on: boolean) =>
    setChosenPictures((now) => {
      const next = new Set(now);
      if (on) next.add(id);
      else next.delete(id);
      return next;
    });

  const failure = contents.error ?? sets.error;
  const problem = failure instanceof Refused ? failure.message : undefined;
  const pictures = contents.data?.pictures ?? [];

  return (
    <Flex {...drop.getRootProps()} height="100%" direction="column">
      <input {...drop.getInputProps({ "aria-label": "Picture files" })} />
      <PageHeader>
        <Brand to="/" title="Sequor">
          contact sheet
        </Brand>
        <Flex flex="1" align="center" gap="16px" px="20px" minWidth="0">
          <Text as="h1" fontSize="16px" fontWeight="600" truncate>
            {contents.data?.name}
          </Text>
          <Text color="inkSoft">{contents.data && count(pictures.length)}</Text>
        </Flex>
        <Flex align="center" gap="8px" px="16px">
          {pictures.length > 0 && (
            <QuietButton
              height="30px"
              onClick={() =>
                setChosenPictures(
                  selected.length === pictures.length
                    ? new Set()
                    : new Set(pictures.map((picture) => picture.id)),
                )
              }
            >
              {selected.length === pictures.length ? "Choose none" : "Choose all"}
            </QuietButton>
          )}
          {selected.length > 0 && (
            <QuietButton
              height="30px"
              borderColor="verdigris"
              color="verdigris"
              title="Have these pictures read, and look at what they propose one after the other"
              onClick={() =>
                void navigate(
                  `/sets/${setId}/review?pictures=${selected.map(({ id }) => id).join(",")}`,
                )
              }
            >
              Level {selected.length} chosen
            </QuietButton>
          )}
          {selected.length > 0 && (
            <QuietButton
              height="30px"
              borderColor="verdigris"
              color="verdigris"
              onClick={() => setExporting(true)}
            >
              Export {selected.length} chosen
            </QuietButton>
          )}
          <Button
            size="xs"
            height="30px"
            px="14px"
            bg="verdigris"
            color="onVerdigris"
            onClick={drop.open}
          >
            Add pictures
          </Button>
          <SchemeButton />
        </Flex>
      </PageHeader>
      {problem && problem !== dismissed && (
        <ProblemBar message={problem} onClose={() => setDismissed(problem)} />
      )}
      <Flex flex="1" minHeight="0">
        <SetList sets={sets.data?.sets ?? []} current={setId} />
        <Box as="main" flex="1" overflowY="auto" p="20px" position="relative">
          <IncomingList incoming={uploads.incoming} onClear={uploads.clear} />
          {(contents.data ?? sets.data?.sets.length === 0) &&
            pictures.length === 0 &&
            uploads.incoming.length === 0 && <EmptySet onChoose={drop.open} />}
          <Grid templateColumns="repeat(auto-fill, minmax(288px, 1fr))" gap="18px">
            {pictures.map((picture) => (
              <PictureCard
                key={picture.id}
                picture={picture}
                chosen={chosenPictures.has(picture.id)}
                onChoose={(on) => choose(picture.id, on)}
              />
            ))}
          </Grid>
        </Box>
      </Flex>
      {exporting && (
        <ExportSeveral pictures={selected} onClose={() => setExporting(false)} onDone={refresh} />
      )}
      {drop.isDragActive && (
        <Flex
          position="fixed"
          inset="0"
          bg="paper/85"
          borderWidth="3px"
          borderStyle="dashed"
          borderColor="verdigris"
          align="center"
          justify="center"
          zIndex="10"
        >
          <Text fontSize="20px" fontWeight="600">
            Let go to add the pictures to {contents.data?.name ?? FIRST_SET}
          </Text>
        </Flex>
      )}
    </Flex>
  );
}

function EmptySet({ onChoose }: { onChoose: () => void }) {
  return (
    <Flex
      direction="column"
      align="center"
      gap="12px"
      py="96px"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="rule"
      borderRadius="8px"
    >
      <Text fontSize="18px" fontWeight="600">
        Drop photographs here
      </Text>
      <Text color="inkSoft">
        JPEG, PNG, TIFF or WebP, 8 or 16 bit. The originals are kept as they are.
      </Text>
      <Button size="sm" bg="verdigris" color="onVerdigris" onClick={onChoose}>
        Choose files
      </Button>
    </Flex>
  );
}

function count(pictures: number): string {
  return pictures === 1 ? "1 picture" : `${pictures} pictures`;
}
