/* What is judged by eye where nothing can be measured. */
import { Menu, Portal, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { HeldButton } from "../../shared/Part";
import type { Desk } from "../useDesk";

export function EyeMenu({ desk }: { desk: Desk }) {
  return (
    <Menu.Root positioning={{ placement: "bottom-end" }} lazyMount>
      <Menu.Trigger asChild>
        <HeldButton
          held={desk.pulling}
          height="24px"
          title={t("Where there is no line to measure")}
        >
          {t("By eye ▾")}
        </HeldButton>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="sheet" color="ink">
            <Menu.Item value="five" onClick={() => desk.setJudging(true)}>
              <Text flex="1">{t("The calmest of five…")}</Text>
              <Text fontFamily="mono" color="inkSoft">
                {t("E")}
              </Text>
            </Menu.Item>
            <Menu.Item value="pull" onClick={desk.togglePulling}>
              <Text flex="1">
                {desk.pulling ? t("Let go of the corners") : t("Pull the corners")}
              </Text>
              <Text fontFamily="mono" color="inkSoft">
                {t("Q")}
              </Text>
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
