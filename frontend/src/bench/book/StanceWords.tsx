import { Box, Flex, Text } from "@chakra-ui/react";
import { useOptions } from "../../api/options";
import type { Acts, Bench } from "../useBench";
import { StaysButton } from "./StaysButton";

interface Props {
  report: Bench["report"];
  solution: Bench["solution"];
  acts: Acts;
}

/** How surely the stance is known, and of every measured axis whether it is taken out. */
export function StanceWords({ report, solution, acts }: Props) {
  const { axes } = useOptions();
  return (
    <Box
      as="section"
      aria-label="Stance"
      bg="paperDeep"
      borderTopWidth="1px"
      borderColor="rule"
      px="16px"
      py="8px"
      flexShrink={0}
    >
      {report.staying && (
        <Text fontSize="12px" lineHeight="1.35" pb="4px" color="inkSoft">
          {report.staying}
        </Text>
      )}
      {axes.map(({ axis, name }) => (
        <Flex key={axis} gap="8px" fontSize="12px" lineHeight="1.35" py="2px">
          <Text width="40px" flexShrink={0}>
            {name}
          </Text>
          <Text color="inkSoft" flex="1" minWidth="0">
            {report[axis].sigma}
          </Text>
          <StaysButton axis={axis} name={name} solved={solution.stance[axis]} acts={acts} />
        </Flex>
      ))}
    </Box>
  );
}
