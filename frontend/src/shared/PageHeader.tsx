import { Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** The bar at the top of every page. */
export function PageHeader({ children }: { children: ReactNode }) {
  return (
    <Flex
      as="header"
      height="topBar"
      flexShrink={0}
      borderBottomWidth="1px"
      borderColor="rule"
      bg="sheet"
    >
      {children}
    </Flex>
  );
}
