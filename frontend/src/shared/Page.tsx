/* A page with a head: the mark, a title, what can be done, and what went wrong. */
import { Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Brand } from "./Brand";
import { PageHeader } from "./PageHeader";
import { ProblemBar } from "./ProblemBar";

interface Props {
  /** Where the mark leads to. */
  back: string;
  /** What kind of page this is. */
  kind: string;
  title: ReactNode;
  about?: ReactNode;
  acts?: ReactNode;
  problem?: string;
  onDismiss?: () => void;
  children: ReactNode;
}

export function Page({ back, kind, title, about, acts, problem, onDismiss, children }: Props) {
  return (
    <Flex direction="column" height="100%">
      <PageHeader>
        <Brand to={back} title="Sequor">
          {kind}
        </Brand>
        <Flex flex="1" align="center" gap="14px" px="20px" minWidth="0">
          <Text as="h1" fontSize="16px" fontWeight="600" truncate>
            {title}
          </Text>
          <Text color="inkSoft" whiteSpace="nowrap">
            {about}
          </Text>
        </Flex>
        <Flex align="center" gap="8px" px="16px">
          {acts}
        </Flex>
      </PageHeader>
      {problem && <ProblemBar message={problem} onClose={onDismiss ?? (() => undefined)} />}
      {children}
    </Flex>
  );
}
