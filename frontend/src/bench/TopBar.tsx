/* The head of the bench: where we are, the steps and what they have come to, undo, compare. */
import { Flex, Menu, Portal, Text } from "@chakra-ui/react";
import { Ellipsis, Keyboard, Redo2, Search, Undo2 } from "lucide-react";
import { memo } from "react";
import { Link } from "wouter";
import { t } from "../shared/words";
import { useScheme } from "../theme/useScheme";
import { Brand } from "../shared/Brand";
import { IconButton } from "../shared/IconButton";
import { PageHeader } from "../shared/PageHeader";
import { choose, nextLanguage } from "../shared/language";
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
            {t("damaged file")}
            {" · "}
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
          data-undo
          label={t("Undo")}
          icon={Undo2}
          title={t("Undo: {what} (Ctrl Z)", { what: state.what })}
          onClick={() => void bench.acts.undo()}
          disabled={!state.can_undo}
        />
        <IconButton
          label={t("Redo")}
          icon={Redo2}
          title={t("Redo (Ctrl Shift Z)")}
          onClick={() => void bench.acts.redo()}
          disabled={!state.can_redo}
        />
        <Showings showing={showing} onShowing={onShowing} folded={narrow} />
        {narrow ? (
          <MoreMenu onKeys={onKeys} onFind={onFind} />
        ) : (
          <>
            <IconButton
              label={t("Find")}
              icon={Search}
              title={t("Find anything, by what you call it (/)")}
              onClick={onFind}
            />
            <SchemeButton />
            <IconButton label={t("Keys")} icon={Keyboard} title={t("Keys (?)")} onClick={onKeys} />
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
  const language = nextLanguage();
  return (
    <Menu.Root lazyMount positioning={{ placement: "bottom-end" }}>
      <Menu.Trigger asChild>
        <IconButton label={t("More")} icon={Ellipsis} />
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="sheet" color="ink">
            <Menu.Item value="find" onClick={onFind}>
              {t("Find anything")}
            </Menu.Item>
            <Menu.Item value="scheme" onClick={toggle}>
              {scheme === "dark" ? t("Use the light scheme") : t("Use the dark scheme")}
            </Menu.Item>
            {language && (
              <Menu.Item value="language" lang={language[0]} onClick={() => choose(language[0])}>
                {language[1]}
              </Menu.Item>
            )}
            <Menu.Item value="keys" onClick={onKeys}>
              {t("Keys")}
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
