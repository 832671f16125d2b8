/* Whose favourite a picture is, and how many notes there are on it: a way to them. */
import { Flex, Text } from "@chakra-ui/react";
import { Star } from "lucide-react";
import { Link } from "wouter";
import { t, tn } from "../shared/words";
import type { Remark } from "../api/client";
import { QuietButton } from "../shared/Part";

interface Props {
  picture: number;
  name: string;
  remark: Remark;
}

export function RemarkBadge({ picture, name, remark }: Props) {
  const { favourite_of: names, notes } = remark;
  const of = names.length > 0 && t("A favourite of {names}", { names: names.join(", ") });
  const said = notes > 0 && tn("{n} note", "{n} notes", notes);
  return (
    <QuietButton
      asChild
      position="absolute"
      right="10px"
      top="176px"
      height="26px"
      px="8px"
      title={of || undefined}
    >
      <Link
        to={`/pictures/${picture}/notes`}
        aria-label={[name, of, said].filter(Boolean).join(", ")}
      >
        <Flex align="center" gap="6px" aria-hidden>
          {of && <Star size={13} fill="currentColor" />}
          {said && <Text as="span">{said}</Text>}
        </Flex>
      </Link>
    </QuietButton>
  );
}
