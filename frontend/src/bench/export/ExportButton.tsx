/* The act itself: the button with its progress, the reason where it cannot be pressed, and
   the file as soon as it is there. */
import { Box, Button, Flex, Link as Anchor, Text, type LinkProps } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { Link } from "wouter";
import { t } from "../../shared/words";
import type { ExportState } from "../../api/client";
import { fileAddress, isBusy } from "./ExportLine";

interface Props {
  /** The file that was asked for last. */
  last: ExportState | undefined;
  /** Why it cannot be pressed. */
  reason: string | undefined;
  problem: string | undefined;
  onExport: () => void;
  onCancel: (id: number) => void;
}

export function ExportButton({ last, reason, problem, onExport, onCancel }: Props) {
  const running = last && isBusy(last) ? last : undefined;
  return (
    <Box mt="12px">
      <Flex gap="6px">
        <Button
          flex="1"
          size="sm"
          position="relative"
          overflow="hidden"
          bg="verdigris"
          color="onVerdigris"
          onClick={onExport}
          disabled={reason !== undefined || running !== undefined}
          aria-describedby={reason ? "why-not" : undefined}
        >
          {running && (
            <Box
              position="absolute"
              left="0"
              top="0"
              bottom="0"
              bg="onVerdigris"
              opacity="0.25"
              style={{ width: `${running.progress * 100}%` }}
            />
          )}
          {running
            ? t("Exporting, {percent} %", { percent: Math.round(running.progress * 100) })
            : t("Export")}
        </Button>
        {running && (
          <Button
            size="sm"
            variant="outline"
            borderColor="rule"
            color="ink"
            onClick={() => onCancel(running.id)}
          >
            {t("Stop")}
          </Button>
        )}
      </Flex>
      {reason && !running && (
        <Text id="why-not" mt="6px" color="inkSoft">
          {reason}
        </Text>
      )}
      {problem && (
        <Text role="alert" color="brick" mt="8px">
          {problem}
        </Text>
      )}
      {last?.state === "done" && <Saved item={last} />}
      {last?.state === "failed" && (
        <Text role="alert" color="brick" mt="8px">
          {last.words}
        </Text>
      )}
    </Box>
  );
}

/** The file, beside the button that made it. */
function Saved({ item }: { item: ExportState }) {
  const whole = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // Newer browsers answer with a promise, which is nothing that an effect may return.
    void whole.current?.scrollIntoView({ block: "nearest" });
  }, [item.id, item.placed]);
  return (
    <Box mt="8px" role="status" aria-label={t("Saved")} ref={whole}>
      <Text truncate title={item.file_name}>
        {t("Saved as")}{" "}
        <Text as="span" fontWeight="600">
          {item.file_name}
        </Text>
      </Text>
      {item.placed && (
        <Text title={item.placed} color="inkSoft" overflowWrap="anywhere">
          {t("and in {place_words}", { place_words: placeWords(item.placed, item.file_name) })}
        </Text>
      )}
      {item.problem && (
        <Text role="alert" color="brick">
          {item.problem}
        </Text>
      )}
      <Flex gap="12px">
        <Word href={`${fileAddress(item)}?shown=true`} target="_blank">
          {t("Open")}
        </Word>
        <Word href={fileAddress(item)} download={item.file_name}>
          {t("Save again")}
        </Word>
        <Anchor asChild color="verdigris" fontWeight="600">
          <Link to="/exports">{t("Show in the list")}</Link>
        </Anchor>
      </Flex>
    </Box>
  );
}

/** The folder of a copy, and its name where that is another one than the file's. */
function placeWords(placed: string, name: string): string {
  const [folder, own] = placed.split("/").slice(-2);
  return own === name
    ? t("{folder}, beside the original", { folder })
    : t("{folder} as {own}", { folder, own });
}

function Word(props: LinkProps) {
  return <Anchor color="verdigris" fontWeight="600" {...props} />;
}
