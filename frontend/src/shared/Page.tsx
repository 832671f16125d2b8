/* A page with a head: the mark, a title, what can be done, and what went wrong. */
import { Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { t } from "./words";
import { Brand } from "./Brand";
import { PageHeader } from "./PageHeader";
import { useTitle } from "./useTitle";
import { useRoom } from "./useWindow";
import { ProblemBar } from "./ProblemBar";

interface Props {
  /** Where the mark leads to. */
  back: string;
  /** What kind of page this is. */
  kind: string;
  title: ReactNode;
  /** The picture that it is about, where the title does not say it. */
  of?: string | undefined;
  about?: ReactNode;
  acts?: ReactNode;
  problem?: string;
  onDismiss?: () => void;
  children: ReactNode;
}

export function Page({ back, kind, title, of, about, acts, problem, onDismiss, children }: Props) {
  const { slim } = useRoom();
  useTitle([of, title, kind].filter((part) => typeof part === "string").join(", "));
  const doing = (
    <Flex align="center" gap="8px" px={slim ? "10px" : "16px"}>
      {acts}
    </Flex>
  );
  return (
    <Flex direction="column" height="100%">
      <PageHeader below={slim && acts && doing}>
        <Brand to={back} title={t("Sequor")} narrow={slim}>
          {kind}
        </Brand>
        <Flex flex="1" align="center" gap="14px" px={slim ? "10px" : "20px"} minWidth="0">
          <Text
            as="h1"
            fontSize="16px"
            fontWeight="600"
            truncate
            title={typeof title === "string" ? title : undefined}
          >
            {title}
          </Text>
          {!slim && (
            <Text color="inkSoft" whiteSpace="nowrap">
              {about}
            </Text>
          )}
        </Flex>
        {!slim && doing}
      </PageHeader>
      {problem && <ProblemBar message={problem} onClose={onDismiss ?? (() => undefined)} />}
      <Flex as="main" direction="column" flex="1" minHeight="0">
        {children}
      </Flex>
    </Flex>
  );
}
