/* All pictures of the review, small, each with what it tells and what was decided. */
import { Box, Button, Flex, Image, Text } from "@chakra-ui/react";
import { t } from "../shared/words";
import type { PictureSummary } from "../api/client";
import { DECIDED, type Decision } from "./useReview";

interface StripProps {
  ids: number[];
  place: number;
  summaries: Map<number, PictureSummary>;
  decided: ReadonlyMap<number, Decision>;
  onGo: (place: number) => void;
}

export function ReviewStrip({ ids, place, summaries, decided, onGo }: StripProps) {
  return (
    <Flex
      as="nav"
      aria-label={t("Pictures of this review")}
      gap="8px"
      px="20px"
      py="10px"
      overflowX="auto"
      flexShrink={0}
      borderTopWidth="1px"
      borderColor="rule"
    >
      {ids.map((id, index) => {
        const picture = summaries.get(id);
        const decision = decided.get(id);
        return (
          <Button
            key={id}
            variant="plain"
            height="auto"
            width="136px"
            flexShrink={0}
            p="4px"
            display="block"
            textAlign="left"
            borderWidth="1px"
            borderRadius="4px"
            borderColor={index === place ? "verdigris" : "rule"}
            bg={index === place ? "highlight" : "sheet"}
            aria-label={`${picture?.name ?? ""}, ${words(picture, decision)}`}
            aria-current={index === place}
            onClick={() => onGo(index)}
          >
            <Box height="62px" bg="stage">
              <Image
                src={picture?.thumbnail}
                alt=""
                width="100%"
                height="100%"
                objectFit="contain"
              />
            </Box>
            <Text
              fontSize="11px"
              lineHeight="1.25"
              height="28px"
              mt="3px"
              fontWeight="400"
              whiteSpace="normal"
              color={decision === "taken" ? "verdigris" : "inkSoft"}
            >
              {words(picture, decision)}
            </Text>
          </Button>
        );
      })}
    </Flex>
  );
}

const words = (picture: PictureSummary | undefined, decision: Decision | undefined) =>
  (decision ? DECIDED[decision] : picture?.told_words || picture?.turn_words) ?? "";
