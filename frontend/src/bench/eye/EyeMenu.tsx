/* What is judged by eye where nothing can be measured. */
import { Menu, Portal, Text } from "@chakra-ui/react";
import { HeldButton } from "../../shared/Part";
import type { Desk } from "../useDesk";

export function EyeMenu({ desk }: { desk: Desk }) {
  return (
    <Menu.Root positioning={{ placement: "bottom-end" }} lazyMount>
      <Menu.Trigger asChild>
        <HeldButton held={desk.pulling} height="24px" title="Where there is no line to measure">
          By eye ▾
        </HeldButton>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="sheet" color="ink">
            <Menu.Item value="five" onClick={() => desk.setJudging(true)}>
              <Text flex="1">The calmest of five…</Text>
              <Text fontFamily="mono" color="inkSoft">
                E
              </Text>
            </Menu.Item>
            <Menu.Item value="pull" onClick={desk.togglePulling}>
              <Text flex="1">{desk.pulling ? "Let go of the corners" : "Pull the corners"}</Text>
              <Text fontFamily="mono" color="inkSoft">
                Q
              </Text>
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
