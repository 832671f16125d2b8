/* What can be drawn on the picture, each with its key. */
import { Box, Button, Checkbox, Flex, Grid, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { KindSign } from "../stage/ReadingMark";
import { EyeMenu } from "../eye/EyeMenu";
import type { Desk } from "../useDesk";
import { TOOLS } from "./toolList";

export function Tools({ desk }: { desk: Desk }) {
  const { tool, toggleTool, fitting, setFitting } = desk;
  return (
    <Box px="14px" pb="8px">
      <Grid templateColumns="repeat(auto-fit, minmax(4.6em, 1fr))" gap="5px">
        {TOOLS.map(({ tool: name, key, name: label, title }) => (
          <Button
            key={name}
            variant="outline"
            flexDirection="column"
            alignItems="stretch"
            justifyContent="center"
            minWidth="0"
            minHeight="40px"
            height="auto"
            px="6px"
            gap="1px"
            borderColor={tool === name ? "verdigris" : "rule"}
            bg={tool === name ? "highlight" : "sheet"}
            color={name === "rectangle" || name === "straight" ? "ink" : name}
            aria-pressed={tool === name}
            onClick={() => toggleTool(name)}
            title={title}
          >
            <Text as="span" display="flex" alignItems="center" justifyContent="space-between">
              <KindSign kind={name} />
              <Text as="span" fontFamily="mono" color="inkSoft" fontSize="11px" aria-hidden>
                {key}
              </Text>
            </Text>
            <Text as="span" fontSize="11px" lineHeight="1.3" fontWeight="500" textAlign="left">
              {label}
            </Text>
          </Button>
        ))}
      </Grid>
      <Flex mt="7px" align="center" justify="space-between">
        <Checkbox.Root
          size="sm"
          checked={fitting}
          onCheckedChange={({ checked }) => setFitting(checked === true)}
        >
          <Checkbox.HiddenInput />
          <Checkbox.Control
            borderColor="rule"
            _checked={{ bg: "verdigris", borderColor: "verdigris", color: "onVerdigris" }}
          />
          <Checkbox.Label fontWeight="400" fontSize="12px">
            {t("Fit new lines to edges")}
          </Checkbox.Label>
        </Checkbox.Root>
        <EyeMenu desk={desk} />
      </Flex>
    </Box>
  );
}
