/* A set: its name, what it is about, its place, and what can be done with all of it. */
import { Box, Button, Flex, Input, Link as Anchor, Text, Textarea } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { t } from "../shared/words";
import { client, taken, type SetSummary } from "../api/client";
import { Choice, QuietButton } from "../shared/Part";
import { Window } from "../shared/Window";
import { SharingPanel } from "./SharingPanel";
import { SidecarPart } from "./SidecarPart";

interface Props {
  set: SetSummary;
  sets: SetSummary[];
  /** Whether pictures of it stay where they lie. */
  opened: boolean;
  /** Whether there are accounts. */
  shareable: boolean;
  onClose: () => void;
  onChanged: () => Promise<void>;
  /** It is not there any more: show another one. */
  onGone: (next: number | undefined) => void;
}

export function SetWindow(props: Props) {
  const { set, onClose, onChanged } = props;
  const [sharing, setSharing] = useState(false);
  const name = { name: set.name };
  return (
    <Window
      title={sharing ? t("Sharing {name}", name) : t("The set {name}", name)}
      width={sharing ? "580px" : "520px"}
      onClose={onClose}
    >
      {sharing ? (
        <SharingPanel
          set={set}
          onGiven={() => {
            onClose();
            void onChanged();
          }}
        />
      ) : (
        <SetPanel {...props} onShare={() => setSharing(true)} />
      )}
    </Window>
  );
}

function SetPanel(props: Props & { onShare: () => void }) {
  const { set, sets, opened, shareable, onShare, onClose, onChanged, onGone } = props;
  const path = { set_id: set.id };
  const [name, setName] = useState(set.name);
  const [about, setAbout] = useState(set.description);
  const others = sets.filter(({ id }) => id !== set.id);
  const [into, setInto] = useState(String(others[0]?.id ?? ""));
  const keep = useMutation({
    mutationFn: () =>
      taken(
        client.PATCH("/api/sets/{set_id}", {
          params: { path },
          body: { name, description: about },
        }),
      ),
    onSuccess: async () => {
      await onChanged();
      onClose();
    },
  });
  const order = useMutation({
    mutationFn: (by: number) => {
      const ids = sets.map(({ id }) => id);
      const place = ids.indexOf(set.id);
      ids.splice(place, 1);
      ids.splice(Math.max(0, place + by), 0, set.id);
      return taken(client.PUT("/api/sets/order", { body: { set_ids: ids } }));
    },
    onSuccess: onChanged,
  });
  const merge = useMutation({
    mutationFn: () =>
      taken(
        client.POST("/api/sets/{set_id}/merge", {
          params: { path },
          body: { into_id: Number(into) },
        }),
      ),
    onSuccess: () => onGone(Number(into)),
  });
  const bin = useMutation({
    mutationFn: () => taken(client.DELETE("/api/sets/{set_id}", { params: { path } })),
    onSuccess: () => onGone(others[0]?.id),
  });
  const problem = keep.error ?? merge.error ?? bin.error ?? order.error;
  const place = sets.findIndex(({ id }) => id === set.id);
  return (
    <>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate();
        }}
      >
        <Flex direction="column" gap="8px">
          <Input
            size="sm"
            aria-label={t("Name of the set")}
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
          />
          <Textarea
            size="sm"
            rows={3}
            aria-label={t("What the set is about")}
            placeholder={t("What it is about: place, client, day")}
            value={about}
            maxLength={1000}
            onChange={(event) => setAbout(event.target.value)}
          />
          <Flex gap="8px">
            <Button
              type="submit"
              size="xs"
              height="30px"
              bg="verdigris"
              color="onVerdigris"
              disabled={!name.trim() || keep.isPending}
            >
              {t("Keep name and description")}
            </Button>
            <QuietButton
              height="30px"
              ml="auto"
              disabled={place === 0 || order.isPending}
              onClick={() => order.mutate(-1)}
            >
              {t("Up in the list")}
            </QuietButton>
            <QuietButton
              height="30px"
              disabled={place === sets.length - 1 || order.isPending}
              onClick={() => order.mutate(1)}
            >
              {t("Down")}
            </QuietButton>
          </Flex>
        </Flex>
      </form>
      {problem && (
        <Text role="alert" color="brick" mt="10px">
          {problem.message}
        </Text>
      )}
      <Box mt="16px" pt="12px" borderTopWidth="1px" borderColor="rule">
        {others.length > 0 && (
          <Flex gap="8px" align="center" mb="10px">
            <Text whiteSpace="nowrap">{t("Move all of it into")}</Text>
            <Choice
              label={t("The set that it goes into")}
              value={into}
              options={others.map(({ id, name: other }) => ({ value: String(id), label: other }))}
              onChoose={setInto}
            />
            <QuietButton disabled={merge.isPending} onClick={() => merge.mutate()}>
              {t("Merge")}
            </QuietButton>
          </Flex>
        )}
        {opened && <SidecarPart setId={set.id} />}
        {shareable && (
          <QuietButton mb="10px" onClick={onShare}>
            {t("Share it, or show it to a client…")}
          </QuietButton>
        )}
        <Flex gap="8px">
          <QuietButton asChild title={t("The originals with their recipes and ledgers, as a ZIP")}>
            <Anchor
              href={`/api/sets/${set.id}/archive.zip`}
              download
              _hover={{ textDecoration: "none" }}
            >
              {t("Take it along as an archive")}
            </Anchor>
          </QuietButton>
          <QuietButton
            ml="auto"
            color="brick"
            disabled={bin.isPending}
            onClick={() => bin.mutate()}
          >
            {t("Throw the set into the bin")}
          </QuietButton>
        </Flex>
      </Box>
    </>
  );
}
