/* A picture as an edit would have it, in a pane of its own; while it is on its way, or where it
   cannot be, that is said there. */
import { Box, Flex, Spinner, type BoxProps } from "@chakra-ui/react";
import type { Draft } from "../api/client";
import { FramedPicture } from "../picture/FramedPicture";
import { useSize } from "../picture/useSize";
import type { Bench } from "./useBench";

interface Props extends BoxProps {
  bench: Bench;
  draft: Pick<Draft, "solution"> | undefined;
  problem: string | undefined;
  alt: string;
}

export function DraftPicture({ bench, draft, problem, alt, ...rest }: Props) {
  const [ref, size] = useSize<HTMLDivElement>();
  return (
    <Box ref={ref} position="relative" overflow="hidden" bg="stage" {...rest}>
      {draft && size.width > 0 ? (
        <FramedPicture
          size={size}
          margin={6}
          shot={{ state: bench.state, shown: draft.solution }}
          alt={alt}
        />
      ) : (
        <Flex height="100%" align="center" justify="center" color="onPicture" p="12px">
          {problem ?? <Spinner size="sm" />}
        </Flex>
      )}
    </Box>
  );
}
