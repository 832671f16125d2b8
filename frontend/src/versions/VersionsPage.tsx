/* All versions of a picture side by side at one height, with what each costs; new ones of other
   shapes. */
import { Box, Flex, Image, Input, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, taken, type Edit, whole, type Version } from "../api/client";
import { useOptions } from "../api/options";
import { useKeys } from "../shared/keys";
import { NotHere } from "../shared/NotHere";
import { Page } from "../shared/Page";
import { QuietButton } from "../shared/Part";
import { countWords } from "../shared/times";
import { Shape, useVersions } from "./VersionTabs";

const HEIGHT_PX = 236;

export function VersionsPage() {
  const id = Number(useParams().pictureId);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { ratios } = useOptions();
  const found = useVersions(id);
  const versions = found.data?.versions ?? [];
  const here = versions.find((version) => version.id === id) ?? versions[0];
  const refresh = () => queries.invalidateQueries({ queryKey: ["versions"] });
  const add = useMutation({
    mutationFn: ({ ratio, name }: { ratio: string; name: string }) =>
      taken(
        client.POST("/api/pictures/{picture_id}/versions", {
          params: { path: { picture_id: here?.id ?? id } },
          body: {
            based_on: here?.entry_id ?? 0,
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
      if (left && ids.includes(id)) await navigate(`/pictures/${left.id}/versions`);
      else await refresh();
    },
  });
  useKeys(["escape"], () => void navigate(`/pictures/${id}`));
  if (found.error) return <NotHere message={found.error.message} />;
  return (
    <Page
      back={`/pictures/${id}`}
      kind="versions"
      title="Versions side by side"
      about={found.data && countWords(versions.length, "version")}
      problem={(add.error ?? toBin.error)?.message}
      onDismiss={() => {
        add.reset();
        toBin.reset();
      }}
      acts={
        <QuietButton height="30px" onClick={() => void navigate(`/pictures/${id}`)}>
          To the bench
        </QuietButton>
      }
    >
      <Flex
        align="center"
        gap="8px"
        px="20px"
        py="10px"
        borderBottomWidth="1px"
        borderColor="rule"
        role="group"
        aria-label="Try another shape"
      >
        <Text fontWeight="600">Try another shape</Text>
        {ratios.map(({ value: ratio, label: name, hint }) => (
          <QuietButton
            key={ratio}
            title={hint || undefined}
            disabled={add.isPending}
            onClick={() => add.mutate({ ratio, name })}
          >
            {name}
          </QuietButton>
        ))}
        <Text color="inkSoft">
          begins another version from {here ? `“${here.name}”` : "this one"}; nothing is changed in
          it
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
        aria-label="Versions"
      >
        {versions.map((version) => (
          <VersionCard
            key={version.id}
            version={version}
            here={version.id === id}
            only={versions.length === 1}
            onBin={() => toBin.mutate([version.id])}
            onKeepOnly={() =>
              toBin.mutate(versions.filter((one) => one.id !== version.id).map((one) => one.id))
            }
            onNamed={() => void refresh()}
          />
        ))}
      </Flex>
    </Page>
  );
}

interface CardProps {
  version: Version;
  here: boolean;
  only: boolean;
  onBin: () => void;
  onKeepOnly: () => void;
  onNamed: () => void;
}

function VersionCard({ version, here, only, onBin, onKeepOnly, onNamed }: CardProps) {
  const width = Math.max((HEIGHT_PX * version.width) / version.height, 190);
  return (
    <Box
      role="listitem"
      aria-label={version.name}
      bg="sheet"
      borderWidth="1px"
      borderColor={here ? "verdigris" : "rule"}
      borderRadius="4px"
      overflow="hidden"
      style={{ width }}
    >
      <Link to={`/pictures/${version.id}`} aria-label={`Open ${version.name}`}>
        <Flex bg="stage" height={`${HEIGHT_PX}px`} justify="center">
          <Image src={version.thumbnail} alt="" height="100%" objectFit="contain" />
        </Flex>
      </Link>
      <Box p="10px 12px">
        <Flex align="center" gap="7px">
          <Shape width={version.width} height={version.height} />
          <NameField version={version} onNamed={onNamed} />
        </Flex>
        <Text fontFamily="mono" fontSize="11px" color="inkSoft" mt="5px" truncate>
          {version.ratio}, {version.width} × {version.height} px
        </Text>
        <Text fontWeight="500">{version.cost_words}</Text>
        <Text color="inkSoft" fontSize="12px" truncate>
          {[version.turn_words, version.exports && countWords(version.exports, "export")]
            .filter(Boolean)
            .join(", ")}
        </Text>
        {!only && (
          <Flex gap="6px" mt="8px" wrap="wrap">
            <QuietButton title="The others go into the bin" onClick={onKeepOnly}>
              Keep only this
            </QuietButton>
            <QuietButton onClick={onBin} aria-label={`Throw ${version.name} into the bin`}>
              To the bin
            </QuietButton>
          </Flex>
        )}
      </Box>
    </Box>
  );
}

function NameField({ version, onNamed }: { version: Version; onNamed: () => void }) {
  const [name, setName] = useState<string>();
  const rename = useMutation({
    mutationFn: (given: string) =>
      taken(
        client.PATCH("/api/pictures/{picture_id}/version", {
          params: { path: { picture_id: version.id } },
          body: { name: given },
        }),
      ),
    onSettled: () => {
      setName(undefined);
      onNamed();
    },
  });
  const keep = () => {
    if (name !== undefined && name !== version.name) rename.mutate(name);
    else setName(undefined);
  };
  return (
    <Input
      size="xs"
      height="26px"
      fontWeight="600"
      fontSize="13px"
      borderColor="transparent"
      _hover={{ borderColor: "rule" }}
      px="4px"
      maxLength={60}
      aria-label={`Name of ${version.name}`}
      value={name ?? version.name}
      onChange={(event) => setName(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
