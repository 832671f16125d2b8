import { Flex, Link as Anchor, Text } from "@chakra-ui/react";
import type { FallbackProps } from "react-error-boundary";
import { Link } from "wouter";
import { t } from "./words";
import { asRefused } from "../api/refused";

export function NotHere({
  message = t("There is nothing at this address."),
  way = true,
}: {
  message?: string;
  /** Whether there is a way on for who sees this. */
  way?: boolean;
}) {
  return (
    <Flex height="100%" align="center" justify="center" direction="column" gap="8px">
      <Text fontSize="16px" role="alert">
        {message}
      </Text>
      {way && (
        <Anchor asChild color="verdigris" fontWeight="600">
          <Link to="/">{t("To the contact sheet")}</Link>
        </Anchor>
      )}
    </Flex>
  );
}

/** For what a page could not be shown without. */
export function Failed({ error }: FallbackProps) {
  return <NotHere message={asRefused(error).message} />;
}
