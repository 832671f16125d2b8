import { Box, Grid, Text } from "@chakra-ui/react";
import { Fragment } from "react";
import { t } from "../../shared/words";
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
      aria-label={t("Stance")}
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
      <Grid
        templateColumns="auto minmax(0, 1fr) auto"
        columnGap="8px"
        rowGap="4px"
        fontSize="12px"
        lineHeight="1.35"
        alignItems="start"
      >
        {axes.map(({ axis, name }) => (
          <Fragment key={axis}>
            <Text>{name}</Text>
            <Text color="inkSoft">{report[axis].sigma}</Text>
            <Box>
              <StaysButton axis={axis} name={name} solved={solution.stance[axis]} acts={acts} />
            </Box>
          </Fragment>
        ))}
      </Grid>
    </Box>
  );
}
