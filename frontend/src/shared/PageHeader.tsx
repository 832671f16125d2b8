import { Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { useRoom } from "./useWindow";

interface Props {
  children: ReactNode;
  /** What there is no room for beside it. */
  below?: ReactNode;
}

/** The bar at the top of every page, and another one below it where one is not enough. */
export function PageHeader({ children, below }: Props) {
  return (
    <Flex as="header" direction="column" flexShrink={0}>
      <Bar>{children}</Bar>
      {below && <Bar>{below}</Bar>}
    </Flex>
  );
}

function Bar({ children }: { children: ReactNode }) {
  const { slim, low } = useRoom();
  return (
    <Flex
      height={low ? "36px" : slim ? "42px" : "topBar"}
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
