/* What one picture has, carried over to others: looked at first, done at once, undone at once. */
import { Box, Checkbox, Flex, Spinner, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { client, taken, type CarryPart, type PictureSummary } from "../api/client";
import { useKeys } from "../shared/keys";
import { NotHere } from "../shared/NotHere";
import { Page } from "../shared/Page";
import { Choice, QuietButton } from "../shared/Part";
import { countWords } from "../shared/times";
import { Targets } from "./Targets";

const USUAL: CarryPart[] = ["focal", "lens", "stance", "shape"];

export function CarryPage() {
  const setId = Number(useParams().setId);
  const [query] = useSearchParams();
  const ids = (query.get("pictures") ?? "").split(",").map(Number).filter(Boolean);
  const contents = useQuery({
    queryKey: ["set", setId],
    queryFn: () => taken(client.GET("/api/sets/{set_id}", { params: { path: { set_id: setId } } })),
  });
  if (contents.error) return <NotHere message={contents.error.message} />;
  const pictures = (contents.data?.pictures ?? []).filter(({ id }) => ids.includes(id));
  if (!contents.data) return null;
  if (pictures.length < 2)
    return <NotHere message="Choose two pictures or more to carry something over." />;
  return <Carrying setId={setId} pictures={pictures} />;
}

function Carrying({ setId, pictures }: { setId: number; pictures: PictureSummary[] }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const decided = pictures.find(({ state }) => state !== "new") ?? (pictures[0] as PictureSummary);
  const [from, setFrom] = useState(decided.id);
  const [parts, setParts] = useState<CarryPart[]>(USUAL);
  const [files, setFiles] = useState(false);
  const source = pictures.find(({ id }) => id === from) ?? decided;
  const path = { picture_id: source.id };
  const options = useQuery({
    queryKey: ["carry-options"],
    staleTime: Infinity,
    queryFn: () => taken(client.GET("/api/carry-options")),
  });
  const targets = pictures.filter(({ id }) => id !== source.id);
  const looks = useQuery({
    queryKey: ["carry", source.id, source.entry_id, parts, targets.map((one) => one.entry_id)],
    placeholderData: (before) => before,
    queryFn: () =>
      taken(
        client.POST("/api/pictures/{picture_id}/carry/look", {
          params: { path },
          body: {
            based_on: source.entry_id,
            parts,
            picture_ids: targets.map(({ id }) => id),
          },
        }),
      ),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ["set", setId] });
  const carry = useMutation({
    mutationFn: () =>
      taken(
        client.POST("/api/pictures/{picture_id}/carry", {
          params: { path },
          body: {
            based_on: source.entry_id,
            parts,
            files,
            targets: targets.map(({ id, entry_id }) => ({ picture_id: id, entry_id })),
          },
        }),
      ),
    onSuccess: refresh,
  });
  const undo = useMutation({
    mutationFn: (act: number) =>
      taken(client.POST("/api/acts/{act_id}/undo", { params: { path: { act_id: act } } })),
    onSuccess: async () => {
      carry.reset();
      await refresh();
    },
  });
  const done = carry.data;
  const back = () => void navigate(`/sets/${setId}`);
  const changing = looks.data?.pictures.filter(({ changes }) => changes).length ?? 0;
  const able = !looks.isFetching && (changing > 0 || files) && !carry.isPending && !done;
  useKeys(["z"], () => done && undo.mutate(done.act_id), { ctrl: true });
  useKeys(["escape"], back);
  const toggle = (part: CarryPart, on: boolean) =>
    setParts((now) => (on ? [...now, part] : now.filter((other) => other !== part)));
  const stayed = undo.data?.changed ?? [];
  return (
    <Page
      back={`/sets/${setId}`}
      kind="carry over"
      title={`From ${source.name} to ${countWords(targets.length, "picture")}`}
      about={looks.isFetching ? <Spinner size="xs" /> : undefined}
      problem={(carry.error ?? looks.error ?? undo.error)?.message}
      onDismiss={() => {
        carry.reset();
        undo.reset();
      }}
      acts={
        <>
          {done ? (
            <>
              <Text role="status">Carried over to {countWords(done.count, "picture")}.</Text>
              <QuietButton height="30px" onClick={() => undo.mutate(done.act_id)}>
                Undo it in all
              </QuietButton>
            </>
          ) : (
            undo.data && (
              <Text role="status">
                Undone in {countWords(undo.data.count, "picture")}
                {stayed.length > 0 && `; changed since, so left: ${stayed.join(", ")}`}.
              </Text>
            )
          )}
          <QuietButton
            height="30px"
            bg="verdigris"
            color="onVerdigris"
            disabled={!able}
            onClick={() => carry.mutate()}
          >
            Carry over to {changing}
          </QuietButton>
          <QuietButton height="30px" onClick={back}>
            To the sheet
          </QuietButton>
        </>
      }
    >
      <Flex flex="1" minHeight="0">
        <Box
          as="aside"
          aria-label="What is carried over"
          width="book"
          flexShrink={0}
          p="16px"
          borderRightWidth="1px"
          borderColor="rule"
          overflowY="auto"
        >
          <Text fontSize="12px" fontWeight="600" color="inkSoft" mb="6px">
            From
          </Text>
          <Choice
            label="The picture it comes from"
            value={String(source.id)}
            options={pictures.map(({ id, name, version_name: version }) => ({
              value: String(id),
              label: version ? `${name}, ${version}` : name,
            }))}
            onChoose={(id) => {
              carry.reset();
              undo.reset();
              setFrom(Number(id));
            }}
          />
          <Text color="inkSoft" mt="6px">
            {[source.turn_words, source.perspective_words].filter(Boolean).join(", ")}
          </Text>
          <Text fontSize="12px" fontWeight="600" color="inkSoft" mt="18px" mb="6px">
            What
          </Text>
          {options.data?.parts.map(({ value, label, about }) => (
            <Tick
              key={value}
              label={label}
              about={about}
              checked={parts.includes(value)}
              onChange={(on) => toggle(value, on)}
            />
          ))}
          <Tick
            label="File choices"
            about="format, size and name, as it was exported last"
            checked={files}
            onChange={setFiles}
          />
        </Box>
        <Targets looks={looks.data?.pictures ?? []} />
      </Flex>
    </Page>
  );
}

interface TickProps {
  label: string;
  about: string;
  checked: boolean;
  onChange: (on: boolean) => void;
}

function Tick({ label, about, checked, onChange }: TickProps) {
  return (
    <Checkbox.Root
      size="sm"
      display="flex"
      alignItems="flex-start"
      mb="9px"
      checked={checked}
      onCheckedChange={(change) => onChange(change.checked === true)}
    >
      <Checkbox.HiddenInput aria-label={label} />
      <Checkbox.Control
        mt="2px"
        borderColor="rule"
        _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
      />
      <Box>
        <Text fontWeight="500">{label}</Text>
        <Text color="inkSoft" fontSize="12px" fontWeight="400">
          {about}
        </Text>
      </Box>
    </Checkbox.Root>
  );
}
