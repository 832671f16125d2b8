/* How the picture is shown: as buttons where there is room for them, else as one menu. */
import { chakra, Flex, Menu, Portal } from "@chakra-ui/react";
import { ChevronDown } from "lucide-react";
import { t } from "../shared/words";
import { COMPARED, SHOWINGS, type Showing } from "./stage/showing";

const Segment = chakra("button");

interface Props {
  showing: Showing;
  onShowing: (showing: Showing) => void;
  /** Whether all of them are in one menu. */
  folded: boolean;
}

export function Showings({ showing, onShowing, folded }: Props) {
  return (
    <Flex
      borderWidth="1px"
      borderColor="rule"
      borderRadius="6px"
      overflow="hidden"
      role="group"
      aria-label={t("View")}
    >
      {!folded &&
        SHOWINGS.map(([name, label, title]) => (
          <Segment
            key={name}
            aria-pressed={showing === name}
            onClick={() => onShowing(name)}
            title={title}
            {...segment(showing === name)}
          >
            {label}
          </Segment>
        ))}
      <ShowingMenu
        showing={showing}
        onShowing={onShowing}
        choices={folded ? [...SHOWINGS, ...COMPARED] : COMPARED}
      />
    </Flex>
  );
}

const segment = (taken: boolean) => ({
  height: "28px",
  px: { base: "6px", xl: "8px" },
  cursor: "pointer",
  whiteSpace: "nowrap" as const,
  display: "flex",
  alignItems: "center",
  gap: "3px",
  bg: taken ? "ink" : "sheet",
  color: taken ? "paper" : "ink",
});

interface MenuProps extends Pick<Props, "showing" | "onShowing"> {
  choices: typeof COMPARED;
}

/** Where only some are in it, those that show as shot and finished together. */
function ShowingMenu({ showing, onShowing, choices }: MenuProps) {
  const taken = choices.find(([name]) => name === showing);
  const all = choices.length > COMPARED.length;
  return (
    <Menu.Root lazyMount positioning={{ placement: "bottom-end" }}>
      <Menu.Trigger asChild>
        <Segment
          aria-pressed={all ? undefined : taken !== undefined}
          title={
            all
              ? t("How the picture is shown")
              : t("As shot against finished: beside, divided, over each other")
          }
          {...segment(!all && taken !== undefined)}
        >
          {taken?.[1] ?? t("Compare")} <ChevronDown size={13} aria-hidden />
        </Segment>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="sheet" color="ink">
            {choices.map(([name, label, title]) => (
              <Menu.Item key={name} value={name} title={title} onClick={() => onShowing(name)}>
                {label}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
