/* What one picture has, carried over to others: looked at first, done at once, undone at once. */
import { Flex, Spinner, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { t, tn } from "../shared/words";
import { client, taken, type CarryPart, type PictureSummary } from "../api/client";
import { useKeys } from "../shared/keys";
import { NotHere } from "../shared/NotHere";
import { useRoom } from "../shared/useWindow";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { Targets } from "./Targets";
import { WhatIsCarried } from "./WhatIsCarried";

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
    return (
      <NotHere
        message={t("Choose two pictures or more on the contact sheet to carry something over.")}
      />
    );
  return <Carrying setId={setId} pictures={pictures} />;
}

function Carrying({ setId, pictures }: { setId: number; pictures: PictureSummary[] }) {
  const queries = useQueryClient();
  const decided = pictures.find(({ state }) => state !== "new") ?? (pictures[0] as PictureSummary);
  const [from, setFrom] = useState(decided.id);
  const [parts, setParts] = useState<CarryPart[]>(USUAL);
  const [files, setFiles] = useState(false);
  const source = pictures.find(({ id }) => id === from) ?? decided;
  const path = { picture_id: source.id };
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
  const { upright } = useRoom();
  const back = () => navigate(`/sets/${setId}`);
  const changing = looks.data?.pictures.filter(({ changes }) => changes).length ?? 0;
  const able = !looks.isFetching && (changing > 0 || files) && !carry.isPending && !done;
  useKeys(["z"], () => done && undo.mutate(done.act_id), { ctrl: true });
  useKeys(["escape"], back);
  const stayed = undo.data?.changed ?? [];
  return (
    <Page
      back={`/sets/${setId}`}
      kind={t("carry over")}
      title={tn("From {name} to {n} picture", "From {name} to {n} pictures", targets.length, {
        name: source.name,
      })}
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
              <Text role="status">
                {tn("Carried over to {n} picture.", "Carried over to {n} pictures.", done.count)}
              </Text>
              <QuietButton height="30px" onClick={() => undo.mutate(done.act_id)}>
                {t("Undo it in all")}
              </QuietButton>
            </>
          ) : (
            undo.data && (
              <Text role="status">
                {tn("Undone in {n} picture", "Undone in {n} pictures", undo.data.count)}
                {stayed.length > 0 &&
                  t("; changed since, so left: {names}", { names: stayed.join(", ") })}
                .
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
            {t("Carry over to {changing}", { changing })}
          </QuietButton>
          <QuietButton height="30px" onClick={back}>
            {t("To the sheet")}
          </QuietButton>
        </>
      }
    >
      <Flex flex="1" minHeight="0" direction={upright ? "column" : "row"}>
        <WhatIsCarried
          source={source}
          pictures={pictures}
          onSource={(id) => {
            carry.reset();
            undo.reset();
            setFrom(id);
          }}
          parts={parts}
          onParts={setParts}
          files={files}
          onFiles={setFiles}
        />
        <Targets looks={looks.data?.pictures ?? []} />
      </Flex>
    </Page>
  );
}
