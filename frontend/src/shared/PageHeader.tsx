import { Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** The bar at the top of every page. */
export function PageHeader({ children }: { children: ReactNode }) {
  return (
    <Flex
      as="header"
      height="topBar"
      flexShrink={0}
      // Larger letters than there is room for are scrolled to.
      overflowX="auto"
      overflowY="hidden"
      borderBottomWidth="1px"
      borderColor="rule"
      bg="sheet"
    >
      {children}
    </Flex>
  );
}
