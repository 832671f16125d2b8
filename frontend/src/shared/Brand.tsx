import { Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { SvgBox } from "./SvgBox";

/** The mark, leading to the contact sheet, what is on this page, and a line below. */
export function Brand({ to, title, children }: { to: string; title: string; children: ReactNode }) {
  return (
    <Flex
      align="center"
      gap="10px"
      px="16px"
      width="book"
      borderRightWidth="1px"
      borderColor="rule"
      flexShrink={0}
    >
      <Link to={to} aria-label="To the contact sheet">
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
          fontWeight="600"
          fontSize="16px"
          lineHeight="1.25"
          letterSpacing=".02em"
          truncate
          title={title}
        >
          {title}
        </Text>
        <Text as="div" fontSize="12px" color="inkSoft" truncate lineHeight="1.3">
          {children}
        </Text>
      </Flex>
    </Flex>
  );
}
