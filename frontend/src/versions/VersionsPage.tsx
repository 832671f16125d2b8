/* All versions of a picture side by side at one height, with what each costs; new ones of other
   shapes. */
import { Flex, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useParams } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { useState } from "react";
import { t, tn } from "../shared/words";
import { client, taken, whole, type Edit, type Version } from "../api/client";
import { useOptions } from "../api/options";
import { useKeys } from "../shared/keys";
import { NotHere } from "../shared/NotHere";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { CompareVersions } from "./CompareVersions";
import { VersionCard } from "./VersionCard";
import { useVersions } from "./VersionTabs";

export function VersionsPage() {
  const id = Number(useParams().pictureId);
  const queries = useQueryClient();
  const { ratios } = useOptions();
  const found = useVersions(id);
  const versions = found.data?.versions ?? [];
  const here = versions.find((version) => version.id === id) ?? versions[0];
  const [compared, setCompared] = useState<Version>();
  const refresh = () => queries.invalidateQueries({ queryKey: ["versions"] });
  const add = useMutation({
    mutationFn: ({ from, ratio, name }: { from: Version; ratio: string; name: string }) =>
      taken(
        client.POST("/api/pictures/{picture_id}/versions", {
          params: { path: { picture_id: from.id } },
          body: {
            based_on: from.entry_id,
            name,
            edits: whole([{ do: "choose_ratio", ratio } as Edit]),
          },
        }),
      ),
    onSuccess: refresh,
  });
  const toBin = useMutation({
    mutationFn: (ids: number[]) =>
      taken(client.POST("/api/pictures/bin", { body: { picture_ids: ids } })),
    onSuccess: async (_, ids) => {
      const left = versions.find((version) => !ids.includes(version.id));
      // The page of another version asks anew; that of one in the bin has nothing to ask.
      if (left && ids.includes(id)) navigate(`/pictures/${left.id}/versions`);
      else await refresh();
    },
  });
  useKeys(["escape"], () => navigate(`/pictures/${id}`));
  if (found.error) return <NotHere message={found.error.message} />;
  return (
    <Page
      back={`/pictures/${id}`}
      kind={t("versions")}
      title={t("Versions")}
      of={here?.picture_name}
      about={found.data && tn("{n} version", "{n} versions", versions.length)}
      problem={(add.error ?? toBin.error)?.message}
      onDismiss={() => {
        add.reset();
        toBin.reset();
      }}
      acts={
        <QuietButton height="30px" onClick={() => navigate(`/pictures/${id}`)}>
          {t("To the bench")}
        </QuietButton>
      }
    >
      <Flex
        align="center"
        gap="8px"
        px="20px"
        py="10px"
        wrap="wrap"
        borderBottomWidth="1px"
        borderColor="rule"
        role="group"
        aria-label={t("Try another shape")}
      >
        <Text fontWeight="600">{t("Try another shape")}</Text>
        {ratios.map(({ value: ratio, label: name, hint }) => (
          <QuietButton
            key={ratio}
            title={hint || undefined}
            disabled={!here || add.isPending}
            onClick={() => here && add.mutate({ from: here, ratio, name })}
          >
            {name}
          </QuietButton>
        ))}
        <Text color="inkSoft">
          {here
            ? t("begins another version from “{name}”; nothing is changed in it", {
                name: here.name,
              })
            : t("begins another version from this one; nothing is changed in it")}
        </Text>
      </Flex>
      <Flex
        flex="1"
        minHeight="0"
        overflow="auto"
        wrap="wrap"
        alignContent="flex-start"
        gap="22px"
        p="20px"
        role="list"
        aria-label={t("Versions")}
      >
        {versions.map((version) => (
          <VersionCard
            key={version.id}
            version={version}
            here={version.id === id}
            only={versions.length === 1}
            onCompare={() => setCompared(version)}
            onBin={() => toBin.mutate([version.id])}
            onKeepOnly={() =>
              toBin.mutate(versions.filter((one) => one.id !== version.id).map((one) => one.id))
            }
            onNamed={() => void refresh()}
          />
        ))}
      </Flex>
      {here && compared && (
        <CompareVersions one={here} other={compared} onClose={() => setCompared(undefined)} />
      )}
    </Page>
  );
}
