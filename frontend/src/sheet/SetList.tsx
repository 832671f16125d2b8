import { Box, Button, Flex, Input, Link as Anchor, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { t } from "../shared/words";
import { client, taken, type Me, type SetSummary } from "../api/client";
import { useMe } from "../api/me";
import { useRoom } from "../shared/useWindow";
import { LanguageButton } from "../shared/LanguageButton";
import { QuietButton } from "../shared/Part";

interface Props {
  sets: SetSummary[];
  current: number | undefined;
  onChanged: () => Promise<void>;
  /** A set was gone to. */
  onGone: () => void;
}

function places(me: Me) {
  const { served, person, everything, makes_sets: member } = me;
  return [
    ...(member
      ? [
          { to: "/exports", name: t("Exports") },
          { to: "/bin", name: t("Bin") },
        ]
      : []),
    ...(everything ? [{ to: "/storage", name: t("Storage") }] : []),
    ...(everything && served ? [{ to: "/people", name: t("People") }] : []),
    ...(person ? [{ to: "/account", name: person.name }] : []),
  ];
}

/** The sets, one per assignment, a line to begin another, and the places beside them. */
export function SetList({ sets, current, onChanged, onGone }: Props) {
  const { slim } = useRoom();
  const me = useMe();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const create = useMutation({
    mutationFn: () => taken(client.POST("/api/sets", { body: { name } })),
    onSuccess: async (made) => {
      setName("");
      await queries.invalidateQueries({ queryKey: ["sets"] });
      navigate(`/sets/${made.id}`);
    },
  });
  const bring = useMutation({
    mutationFn: (file: File) =>
      taken(
        client.POST("/api/archives", {
          body: { file: file as unknown as string },
          bodySerializer: () => {
            const form = new FormData();
            form.append("file", file);
            return form;
          },
        }),
      ),
    onSuccess: async ({ sets: [first] }) => {
      await onChanged();
      if (first) navigate(`/sets/${first.id}`);
    },
  });
  const archive = useRef<HTMLInputElement>(null);
  return (
    <Flex
      as="nav"
      aria-label={t("Sets")}
      direction="column"
      width={slim ? "100%" : "book"}
      flexShrink={0}
      borderRightWidth="1px"
      borderColor="rule"
    >
      <Text fontSize="12px" fontWeight="600" color="inkSoft" px="16px" pt="14px" pb="6px">
        {t("Sets")}
      </Text>
      <Box flex="1" overflowY="auto">
        {sets.map((set) => (
          <Anchor
            key={set.id}
            asChild
            display="flex"
            justifyContent="space-between"
            px="16px"
            py="8px"
            borderBottomWidth="1px"
            borderColor="ruleFaint"
            color="ink"
            bg={set.id === current ? "highlight" : undefined}
            fontWeight={set.id === current ? "600" : undefined}
            _hover={{ bg: "paperDeep", textDecoration: "none" }}
          >
            <Link
              to={`/sets/${set.id}`}
              onClick={onGone}
              aria-current={set.id === current ? "page" : undefined}
            >
              <Text as="span" truncate title={set.description || set.name}>
                {set.name}
              </Text>
              <Text as="span" fontFamily="mono" color="inkSoft" fontWeight="400">
                {set.pictures}
              </Text>
            </Link>
          </Anchor>
        ))}
      </Box>
      {me.makes_sets && (
        <Box asChild p="16px" borderTopWidth="1px" borderColor="rule">
          <form
            onSubmit={(event) => {
              event.preventDefault();
              create.mutate();
            }}
          >
            {(create.error ?? bring.error) && (
              <Text role="alert" color="brick" mb="6px">
                {(create.error ?? bring.error)?.message}
              </Text>
            )}
            <Flex gap="8px">
              <Input
                size="xs"
                height="30px"
                bg="sheet"
                borderColor="rule"
                aria-label={t("Name of a new set")}
                placeholder={t("New set")}
                value={name}
                maxLength={120}
                onChange={(event) => setName(event.target.value)}
              />
              <Button
                type="submit"
                size="xs"
                height="30px"
                variant="outline"
                borderColor="rule"
                color="ink"
                disabled={!name.trim() || create.isPending}
              >
                {t("Begin")}
              </Button>
            </Flex>
          </form>
        </Box>
      )}
      <Flex gap="4px" px="16px" pb="12px" align="center" wrap="wrap">
        {places(me).map(({ to, name: place }) => (
          <QuietButton key={to} asChild px="8px">
            <Link to={to}>{place}</Link>
          </QuietButton>
        ))}
        <LanguageButton />
        {me.makes_sets && (
          <QuietButton
            px="8px"
            ml="auto"
            title={t("Take in a set that was taken along as an archive")}
            disabled={bring.isPending}
            onClick={() => archive.current?.click()}
          >
            {bring.isPending ? t("Taking in…") : t("Archive in…")}
          </QuietButton>
        )}
        <input
          ref={archive}
          type="file"
          accept=".zip"
          hidden
          aria-label={t("Archive file")}
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) bring.mutate(file);
            event.target.value = "";
          }}
        />
      </Flex>
    </Flex>
  );
}
