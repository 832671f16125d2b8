import { Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { useRoom } from "./useWindow";

interface Props {
  children: ReactNode;
  /** A second bar is no second head. */
  as?: "header" | "div";
}

/** The bar at the top of every page. */
export function PageHeader({ children, as = "header" }: Props) {
  const { slim, low } = useRoom();
  return (
    <Flex
      as={as}
      height={low ? "36px" : slim ? "42px" : "topBar"}
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
