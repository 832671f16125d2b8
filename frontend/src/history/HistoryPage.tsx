/* The ledger of a picture opened: every entry, looked at, compared with the present one, gone back
   to. Looking changes nothing. */
import { Box, Flex, Kbd, Spinner } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { t, tn } from "../shared/words";
import { client, taken } from "../api/client";
import { useKeys, within } from "../shared/keys";
import { NotHere } from "../shared/NotHere";
import { useRoom } from "../shared/useWindow";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { WayButtons, type Way } from "../picture/TwoPictures";
import { Compared } from "./Compared";
import { EntryList } from "./EntryList";

export function HistoryPage() {
  const id = Number(useParams().pictureId);
  const path = { picture_id: id };
  const queries = useQueryClient();
  const { upright, narrow, slim } = useRoom();
  const [chosen, setChosen] = useState<number>();
  const [way, setWay] = useState<Way>("beside");
  const picture = useQuery({
    queryKey: ["picture", id],
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}", { params: { path } })),
  });
  const history = useQuery({
    queryKey: ["history", id],
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}/history", { params: { path } })),
  });
  const goBack = useMutation({
    mutationFn: (entry: number) =>
      taken(
        client.POST("/api/pictures/{picture_id}/return", {
          params: { path },
          body: { based_on: history.data?.head_id ?? 0, entry_id: entry },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["picture", id] });
      await queries.invalidateQueries({ queryKey: ["history", id] });
      setChosen(undefined);
    },
  });

  const entries = [...(history.data?.entries ?? [])].reverse();
  const head = history.data?.head_id;
  const looked = chosen ?? head;
  const place = entries.findIndex((entry) => entry.id === looked);
  const step = (event: KeyboardEvent, by: number) => {
    if (within(event, "input")) return;
    event.preventDefault();
    const next = entries[place + by];
    if (next) setChosen(next.id);
  };
  const returnTo = () => looked !== undefined && looked !== head && goBack.mutate(looked);
  useKeys(["arrowdown"], (event) => step(event, 1));
  useKeys(["arrowup"], (event) => step(event, -1));
  useKeys(["enter"], (event) => {
    event.preventDefault();
    returnTo();
  });
  useKeys(["d"], () => setWay((now) => (now === "beside" ? "divided" : "beside")));
  useKeys(["escape"], () => navigate(`/pictures/${id}`));

  const failure = picture.error ?? history.error;
  if (failure) return <NotHere message={failure.message} />;
  return (
    <Page
      back={`/pictures/${id}`}
      kind={t("ledger")}
      title={picture.data?.file.name}
      about={history.data && tn("{n} entry", "{n} entries", entries.length)}
      problem={goBack.error?.message}
      onDismiss={goBack.reset}
      acts={
        <>
          {history.isFetching && <Spinner size="xs" />}
          <WayButtons way={way} onWay={setWay} />
          <QuietButton
            height="30px"
            gap="7px"
            bg="verdigris"
            color="onVerdigris"
            disabled={looked === head || goBack.isPending}
            title={t("A new entry with the recipe of the chosen one; nothing is lost")}
            onClick={returnTo}
          >
            {t("Go back to it")} {!narrow && <Cap>{t("Enter")}</Cap>}
          </QuietButton>
          <QuietButton height="30px" gap="7px" onClick={() => navigate(`/pictures/${id}`)}>
            {slim ? t("Bench") : t("To the bench")} {!narrow && <Cap>{t("Esc")}</Cap>}
          </QuietButton>
        </>
      }
    >
      <Flex flex="1" minHeight="0" direction={upright ? "column-reverse" : "row"}>
        <EntryList entries={entries} head={head} looked={looked} onLook={setChosen} />
        <Box flex="1" minWidth="0" minHeight="0" bg="stage" position="relative">
          {looked !== undefined && head !== undefined && (
            <Compared pictureId={id} looked={looked} head={head} way={way} />
          )}
        </Box>
      </Flex>
    </Page>
  );
}

const Cap = ({ children }: { children: string }) => (
  <Kbd bg="paperDeep" color="ink" fontSize="10.5px" px="5px">
    {children}
  </Kbd>
);
