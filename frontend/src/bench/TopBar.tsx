/* The head of the bench: where we are, the steps and what they have come to, undo, compare. */
import { Flex, Menu, Portal, Text } from "@chakra-ui/react";
import { Ellipsis, Keyboard, Redo2, Search, Undo2 } from "lucide-react";
import { memo } from "react";
import { Link } from "react-router";
import { useScheme } from "../theme/useScheme";
import { Brand } from "../shared/Brand";
import { IconButton } from "../shared/IconButton";
import { PageHeader } from "../shared/PageHeader";
import { SchemeButton } from "../shared/SchemeButton";
import { useRoom } from "../shared/useWindow";
import { Showings } from "./Showings";
import type { Showing } from "./stage/showing";
import { StepBar } from "./StepBar";
import type { Step } from "./steps";
import type { Bench } from "./useBench";

interface Props {
  bench: Bench;
  step: Step;
  onStep: (step: Step) => void;
  showing: Showing;
  onShowing: (showing: Showing) => void;
  onKeys: () => void;
  onFind: () => void;
}

export const TopBar = memo(function TopBar(props: Props) {
  const { bench, step, onStep, showing, onShowing, onKeys, onFind } = props;
  const { state } = bench;
  const { narrow, slim } = useRoom();
  const steps = <StepBar steps={bench.report.steps} step={step} onStep={onStep} />;
  const bar = (
    <>
      <Brand
        narrow
        heading
        to={`/sets/${state.set_id}`}
        title={state.file.name}
        about={state.set_name}
      >
        {state.file.taken_damaged && (
          <Text as="span" color="brick" title={state.file.taken_damaged}>
            {"damaged file · "}
          </Text>
        )}
        {!narrow && "Sequor / "}
        <Link to={`/sets/${state.set_id}`}>{state.set_name}</Link>
      </Brand>
      {!slim && steps}
      <Flex
        flex="1"
        align="center"
        justify="flex-end"
        gap="6px"
        px={slim ? "6px" : "10px"}
        flexShrink={0}
      >
        <IconButton
          label="Undo"
          icon={Undo2}
          title={`Undo: ${state.what} (Ctrl Z)`}
          onClick={() => void bench.acts.undo()}
          disabled={!state.can_undo}
        />
        <IconButton
          label="Redo"
          icon={Redo2}
          title="Redo (Ctrl Shift Z)"
          onClick={() => void bench.acts.redo()}
          disabled={!state.can_redo}
        />
        <Showings showing={showing} onShowing={onShowing} folded={narrow} />
        {narrow ? (
          <MoreMenu onKeys={onKeys} onFind={onFind} />
        ) : (
          <>
            <IconButton
              label="Find"
              icon={Search}
              title="Find anything, by what you call it (/)"
              onClick={onFind}
            />
            <SchemeButton />
            <IconButton label="Keys" icon={Keyboard} title="Keys (?)" onClick={onKeys} />
          </>
        )}
      </Flex>
    </>
  );
  return <PageHeader below={slim && steps}>{bar}</PageHeader>;
});

/** What there is no room for in a narrow bar. */
function MoreMenu({ onKeys, onFind }: Pick<Props, "onKeys" | "onFind">) {
  const [scheme, toggle] = useScheme();
  return (
    <Menu.Root lazyMount positioning={{ placement: "bottom-end" }}>
      <Menu.Trigger asChild>
        <IconButton label="More" icon={Ellipsis} />
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="sheet" color="ink">
            <Menu.Item value="find" onClick={onFind}>
              Find anything
            </Menu.Item>
            <Menu.Item value="scheme" onClick={toggle}>
              Use the {scheme === "dark" ? "light" : "dark"} scheme
            </Menu.Item>
            <Menu.Item value="keys" onClick={onKeys}>
              Keys
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
