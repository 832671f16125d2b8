/* One version, with what it costs; its name can be written over. */
import { Box, Flex, Image, Input, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { t, tn } from "../shared/words";
import { client, taken, type Version } from "../api/client";
import { QuietButton } from "../shared/Part";
import { Shape } from "./VersionTabs";

const HEIGHT_PX = 236;

interface CardProps {
  version: Version;
  here: boolean;
  only: boolean;
  onCompare: () => void;
  onBin: () => void;
  onKeepOnly: () => void;
  onNamed: () => void;
}

export function VersionCard({
  version,
  here,
  only,
  onCompare,
  onBin,
  onKeepOnly,
  onNamed,
}: CardProps) {
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
      maxWidth="100%"
      style={{ width }}
    >
      <Link to={`/pictures/${version.id}`} aria-label={t("Open {name}", { name: version.name })}>
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
          {t("{ratio}, {width} × {height} px", {
            ratio: version.ratio,
            width: version.width,
            height: version.height,
          })}
        </Text>
        <Text fontWeight="500">{version.cost_words}</Text>
        <Text color="inkSoft" fontSize="12px" truncate>
          {[version.turn_words, version.exports && tn("{n} export", "{n} exports", version.exports)]
            .filter(Boolean)
            .join(", ")}
        </Text>
        {!only && (
          <Flex gap="6px" mt="8px" wrap="wrap">
            {!here && (
              <QuietButton
                aria-label={t("Compare with {name}", { name: version.name })}
                title={t("This one against the one you came from")}
                onClick={onCompare}
              >
                {t("Compare")}
              </QuietButton>
            )}
            <QuietButton title={t("The others go into the bin")} onClick={onKeepOnly}>
              {t("Keep only this")}
            </QuietButton>
            <QuietButton
              onClick={onBin}
              aria-label={t("Throw {name} into the bin", { name: version.name })}
            >
              {t("To the bin")}
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
      aria-label={t("Name of {name}", { name: version.name })}
      value={name ?? version.name}
      onChange={(event) => setName(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
