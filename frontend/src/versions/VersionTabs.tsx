/* The versions of a picture as tabs on the edge of the book, each with its shape drawn. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link } from "wouter";
import { MessageSquare } from "lucide-react";
import { navigate } from "wouter/use-browser-location";
import { t } from "../shared/words";
import { client, taken, type PictureState, type Version } from "../api/client";
import { Missing } from "../shared/Missing";
import { useMe } from "../api/me";
import { QuietButton } from "../shared/Part";

const SHAPE_PX = 16;

/** Asked again when another entry holds. */
export function useVersions(pictureId: number, entry?: number) {
  return useQuery({
    queryKey: ["versions", pictureId, entry],
    placeholderData: (before) => before,
    queryFn: () =>
      taken(
        client.GET("/api/pictures/{picture_id}/versions", {
          params: { path: { picture_id: pictureId } },
        }),
      ),
  });
}

export function VersionTabs({ state }: { state: PictureState }) {
  const asked = useVersions(state.id, state.entry_id);
  const versions = asked.data?.versions ?? [];
  const { served } = useMe();
  return (
    <Flex
      as="nav"
      aria-label={t("Versions")}
      align="center"
      gap="4px"
      px="16px"
      py="6px"
      borderBottomWidth="1px"
      borderColor="rule"
    >
      <Flex flex="1" gap="4px" overflowX="auto" minWidth="0">
        <Missing asked={asked} />
        {versions.map((version) => (
          <Tab
            key={version.id}
            version={version}
            here={version.id === state.id}
            named={versions.length < 3 || version.id === state.id}
          />
        ))}
      </Flex>
      <QuietButton
        height="26px"
        px="7px"
        title={t("Versions side by side, and new ones: another crop for another use")}
        onClick={() => navigate(`/pictures/${state.id}/versions`)}
      >
        {t("Versions")}
      </QuietButton>
      <QuietButton
        height="26px"
        px="7px"
        title={t("Everything that was done to this version, to look at and go back to")}
        onClick={() => navigate(`/pictures/${state.id}/history`)}
      >
        {t("Ledger")}
      </QuietButton>
      {served && (
        <QuietButton
          height="26px"
          px="7px"
          title={t("What clients and others said of places of this picture")}
          aria-label={t("Notes")}
          onClick={() => navigate(`/pictures/${state.id}/notes`)}
        >
          <MessageSquare size={14} aria-hidden />
        </QuietButton>
      )}
    </Flex>
  );
}

interface TabProps {
  version: Version;
  here: boolean;
  /** Of many, only the one on the bench has room for its name. */
  named: boolean;
}

function Tab({ version, here, named }: TabProps) {
  const title = `${version.name}: ${version.ratio}, ${version.cost_words}`;
  return (
    <QuietButton
      asChild
      height="26px"
      px="6px"
      gap="5px"
      flexShrink={0}
      maxWidth="112px"
      borderColor={here ? "verdigris" : "rule"}
      bg={here ? "highlight" : "sheet"}
    >
      <Link
        to={`/pictures/${version.id}`}
        title={title}
        aria-label={t("Version {title}", { title })}
        aria-current={here ? "page" : undefined}
      >
        <Shape width={version.width} height={version.height} />
        {named && (
          <Text as="span" truncate fontSize="12px">
            {version.name}
          </Text>
        )}
      </Link>
    </QuietButton>
  );
}

/** The outline of a frame. */
export function Shape({ width, height }: { width: number; height: number }) {
  const scale = SHAPE_PX / Math.max(width, height);
  return (
    <Flex width={`${SHAPE_PX}px`} height={`${SHAPE_PX}px`} align="center" justify="center">
      <Box
        borderWidth="1.5px"
        borderColor="ink"
        style={{ width: width * scale, height: height * scale }}
      />
    </Flex>
  );
}
