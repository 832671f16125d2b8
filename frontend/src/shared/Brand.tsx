import { Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Link } from "wouter";
import { t } from "./words";
import { SvgBox } from "./SvgBox";
import { useRoom } from "./useWindow";

/** The mark, leading to the contact sheet, what is on this page, and a line below. */
interface Props {
  to: string;
  title: string;
  /** As wide as what it says, and less where there is no room. */
  narrow?: boolean;
  /** The line below in full, where it may be cut. */
  about?: string;
  /** Whether the title is what the page is about. */
  heading?: boolean;
  children: ReactNode;
}

/* As low as a telephone on its side, there is one line. */
export function Brand({ to, title, narrow, about, heading = false, children }: Props) {
  const { low, slim } = useRoom();
  // Two lines are too near to each other for a finger.
  const below = !low && !(slim && heading);
  return (
    <Flex
      align="center"
      gap="10px"
      px={narrow ? "12px" : "16px"}
      width={narrow ? undefined : "book"}
      minWidth={narrow ? "120px" : undefined}
      maxWidth={narrow ? "236px" : undefined}
      borderRightWidth="1px"
      borderColor="rule"
      flexShrink={narrow ? 1 : 0}
    >
      <Link to={to} aria-label={t("To the contact sheet")}>
        <SvgBox viewBox="0 0 30 18" width="30px" display="block">
          <rect
            x=".7"
            y="3"
            width="28.6"
            height="12"
            rx="6"
            fill="var(--tube)"
            stroke="currentColor"
            strokeWidth="1.3"
          />
          <path d="M11 3v12M19 3v12" stroke="currentColor" />
          <ellipse cx="15" cy="8" rx="3.6" ry="3.2" fill="var(--bubble)" stroke="var(--rim)" />
        </SvgBox>
      </Link>
      <Flex direction="column" minWidth="0">
        <Text
          as={heading ? "h1" : undefined}
          fontWeight="600"
          fontSize={narrow ? "14px" : "16px"}
          lineHeight="1.25"
          letterSpacing=".02em"
          truncate
          title={title}
        >
          {title}
        </Text>
        {below && (
          <Text as="div" fontSize="12px" color="inkSoft" truncate lineHeight="1.3" title={about}>
            {children}
          </Text>
        )}
      </Flex>
    </Flex>
  );
}
