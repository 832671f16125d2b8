/* The bin: what was thrown away, until when it stays, and the way back. */
import { Box, Flex, Image, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { t, tn } from "../shared/words";
import { client, taken } from "../api/client";
import { useKeys } from "../shared/keys";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { dayWords } from "../shared/times";

export function BinPage() {
  const queries = useQueryClient();
  const [asking, setAsking] = useState(false);
  const bin = useQuery({ queryKey: ["bin"], queryFn: () => taken(client.GET("/api/bin")) });
  const refresh = () => queries.invalidateQueries();
  const restore = useMutation({
    mutationFn: (body: { picture_ids: number[]; set_ids: number[] }) =>
      taken(client.POST("/api/bin/restore", { body })),
    onSuccess: refresh,
  });
  const empty = useMutation({
    mutationFn: () => taken(client.POST("/api/bin/empty")),
    onSuccess: async () => {
      setAsking(false);
      await refresh();
    },
  });
  useKeys(["escape"], () => navigate("/"));
  const { pictures = [], sets = [], days = 0 } = bin.data ?? {};
  const count = pictures.length + sets.length;
  return (
    <Page
      back="/"
      kind={t("bin")}
      title={t("Bin")}
      about={
        bin.data && (count ? t("{count} here, each for {days} days", { count, days }) : t("empty"))
      }
      problem={(bin.error ?? restore.error ?? empty.error)?.message}
      acts={
        count > 0 && (
          <>
            <QuietButton
              height="30px"
              onClick={() =>
                restore.mutate({
                  picture_ids: pictures.map(({ id }) => id),
                  set_ids: sets.map(({ id }) => id),
                })
              }
            >
              {t("Put everything back")}
            </QuietButton>
            {asking ? (
              <QuietButton height="30px" color="brick" autoFocus onClick={() => empty.mutate()}>
                {t("Delete it all for good")}
              </QuietButton>
            ) : (
              <QuietButton height="30px" color="brick" onClick={() => setAsking(true)}>
                {t("Empty the bin…")}
              </QuietButton>
            )}
          </>
        )
      }
    >
      <Box flex="1" overflowY="auto" role={count ? "list" : undefined} aria-label={t("In the bin")}>
        {count === 0 && bin.data && (
          <Text p="20px" color="inkSoft">
            {t(
              "Nothing was thrown away. What is comes here first, with its ledger and versions, and can be put back for {days} days.",
              { days },
            )}
          </Text>
        )}
        {sets.map((set) => (
          <Line
            key={`set ${set.id}`}
            name={t("The set {name}", { name: set.name })}
            about={tn("{n} version", "{n} versions", set.pictures)}
            until={set.until}
            onBack={() => restore.mutate({ picture_ids: [], set_ids: [set.id] })}
          />
        ))}
        {pictures.map((picture) => (
          <Line
            key={picture.id}
            name={picture.version_name ? `${picture.name}, ${picture.version_name}` : picture.name}
            about={t("from {set_name}", { set_name: picture.set_name })}
            until={picture.until}
            image={picture.thumbnail}
            onBack={() => restore.mutate({ picture_ids: [picture.id], set_ids: [] })}
          />
        ))}
      </Box>
    </Page>
  );
}

interface LineProps {
  name: string;
  about: string;
  until: string;
  image?: string;
  onBack: () => void;
}

function Line({ name, about, until, image, onBack }: LineProps) {
  return (
    <Flex
      role="listitem"
      aria-label={name}
      align="center"
      gap={{ base: "8px", lg: "16px" }}
      px={{ base: "12px", lg: "20px" }}
      py="8px"
      borderBottomWidth="1px"
      borderColor="ruleFaint"
    >
      <Flex width="84px" height="58px" bg="stage" align="center" justify="center" flexShrink={0}>
        {image && <Image src={image} alt="" maxHeight="100%" loading="lazy" />}
      </Flex>
      <Box flex="1" minWidth="0">
        <Text fontWeight="600" truncate>
          {name}
        </Text>
        <Text color="inkSoft">{about}</Text>
      </Box>
      <Text color="inkSoft" fontSize={{ base: "12px", lg: "13px" }}>
        {t("until {day_words}", { day_words: dayWords(until) })}
      </Text>
      <QuietButton onClick={onBack}>{t("Put back")}</QuietButton>
    </Flex>
  );
}
