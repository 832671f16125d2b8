import {
  Box,
  Button,
  Checkbox,
  Flex,
  Image,
  Link as Anchor,
  Text,
  VisuallyHidden,
} from "@chakra-ui/react";
import { useRef } from "react";
import { Link } from "wouter";
import { t } from "../shared/words";
import type { PictureSummary, Remark } from "../api/client";
import { later } from "../shared/later";

const RemarkBadge = later(async () => (await import("./RemarkBadge")).RemarkBadge);

interface Props {
  picture: PictureSummary;
  /** How many versions there are, counted on the first one only. */
  versions: number;
  /** Whether this is a further version that was unfolded. */
  more: boolean;
  unfolded: boolean;
  onUnfold: () => void;
  chosen: boolean;
  onChoose: (chosen: boolean, range: boolean) => void;
  /** What clients and others said of it. */
  remark: Remark | undefined;
  /** Whether it may only be looked at. */
  lookOnly: boolean;
}

/** One picture as it would be exported now, with its size, how far it was turned, and its state. */
export function PictureCard({
  picture,
  versions,
  more,
  unfolded,
  onUnfold,
  chosen,
  onChoose,
  remark,
  lookOnly,
}: Props) {
  const range = useRef(false);
  const name = picture.version_name ? `${picture.name}, ${picture.version_name}` : picture.name;
  return (
    <Box position="relative" height="100%">
      <Anchor
        asChild
        display="block"
        height="100%"
        bg="sheet"
        borderWidth="1px"
        borderColor={chosen ? "verdigris" : "rule"}
        borderStyle={more ? "dashed" : "solid"}
        borderRadius="4px"
        overflow="hidden"
        color="ink"
        _hover={{ borderColor: "verdigris", textDecoration: "none" }}
      >
        <Link to={lookOnly ? `/pictures/${picture.id}/notes` : `/pictures/${picture.id}`}>
          <VisuallyHidden>
            {more ? t("Open {name},", { name: picture.name }) : t("Open")}
          </VisuallyHidden>
          <Flex bg="stage" height="212px" align="center" justify="center" p="10px">
            <Image
              src={picture.thumbnail}
              alt=""
              maxHeight="100%"
              maxWidth="100%"
              objectFit="contain"
            />
          </Flex>
          <Box px="12px" py="9px">
            <Flex justify="space-between" gap="12px">
              <Text fontWeight="600" truncate title={name}>
                {more ? picture.version_name : picture.name}
              </Text>
              <Text color={picture.state === "new" ? "inkSoft" : "verdigris"} whiteSpace="nowrap">
                {picture.state_words}
              </Text>
            </Flex>
            <Flex
              justify="space-between"
              gap="12px"
              color="inkSoft"
              fontFamily="mono"
              fontSize="11px"
              whiteSpace="nowrap"
            >
              <span>
                {picture.width} × {picture.height}
                {picture.taken_damaged && (
                  <Text as="span" color="brick" title={t("Taken in as it is; parts may be wrong")}>
                    {" · "}
                    {t("damaged file")}
                  </Text>
                )}
              </span>
              {!picture.told_words && <span>{picture.turn_words}</span>}
            </Flex>
            {picture.told_words && (
              <Text
                color={picture.told === "sure" ? "ink" : "inkSoft"}
                fontSize="12px"
                truncate
                title={t("As Sequor reads the picture itself")}
              >
                {picture.told_words}
              </Text>
            )}
            {picture.perspective_words && (
              <Text color="inkSoft" fontFamily="mono" fontSize="11px" textAlign="right" truncate>
                {picture.perspective_words}
              </Text>
            )}
          </Box>
        </Link>
      </Anchor>
      <Checkbox.Root
        size="sm"
        position="absolute"
        left="10px"
        top="10px"
        checked={chosen}
        onPointerDown={(event) => {
          range.current = event.shiftKey;
        }}
        onKeyDown={(event) => {
          range.current = event.shiftKey;
        }}
        onCheckedChange={(change) => onChoose(change.checked === true, range.current)}
      >
        <Checkbox.HiddenInput aria-label={t("Choose {name}", { name })} />
        <Checkbox.Control
          bg="sheet"
          borderColor="inkSoft"
          _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
        />
      </Checkbox.Root>
      {remark && <RemarkBadge picture={picture.id} name={name} remark={remark} />}
      {versions > 1 && (
        <Button
          size="2xs"
          position="absolute"
          right="10px"
          top="10px"
          bg="sheet"
          color="ink"
          borderWidth="1px"
          borderColor="rule"
          aria-expanded={unfolded}
          aria-label={t("{versions} versions of {name}", { versions, name: picture.name })}
          onClick={onUnfold}
        >
          {t("{versions} versions", { versions })} {unfolded ? "▴" : "▾"}
        </Button>
      )}
    </Box>
  );
}
