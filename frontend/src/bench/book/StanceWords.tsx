import { Box, Flex, Text } from "@chakra-ui/react";
import { useOptions } from "../../api/options";
import type { Bench } from "../useBench";

/** What is known of the stance. */
export function StanceWords({ report }: { report: Bench["report"] }) {
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
      {axes.map(({ axis, name }) => (
        <Flex key={axis} gap="8px" fontSize="12px" lineHeight="1.35" py="2px">
          <Text width="40px" flexShrink={0}>
            {name}
          </Text>
          <Box>
            {report[axis].applied && <Text fontFamily="mono">{report[axis].applied}</Text>}
            <Text color="inkSoft">{report[axis].sigma}</Text>
          </Box>
        </Flex>
      ))}
    </Box>
  );
}
