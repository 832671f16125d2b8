/* A page for those who are not known yet: the mark, a title, a form. */
import { Button, Flex, Input, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { t } from "../shared/words";
import { useTitle } from "../shared/useTitle";

interface Props {
  title: string;
  about?: string;
  problem?: string | undefined;
  act: string;
  busy: boolean;
  onSubmit: () => void;
  children: ReactNode;
}

export function Entrance({ title, about, problem, act, busy, onSubmit, children }: Props) {
  useTitle(title);
  return (
    <Flex as="main" height="100%" overflowY="auto" align="center" justify="center" p="20px">
      <Flex
        asChild
        direction="column"
        gap="12px"
        width="100%"
        maxWidth="380px"
        p="28px"
        bg="sheet"
        borderWidth="1px"
        borderColor="rule"
        borderRadius="4px"
      >
        <form
          onSubmit={(event) => {
            event.preventDefault();
            onSubmit();
          }}
        >
          <Text color="verdigris" fontWeight="600">
            {t("Sequor")}
          </Text>
          <Text as="h1" fontSize="18px" fontWeight="600" lineHeight="1.3">
            {title}
          </Text>
          {about && (
            <Text color="inkSoft" lineHeight="1.5">
              {about}
            </Text>
          )}
          {children}
          {problem && (
            <Text role="alert" color="brick">
              {problem}
            </Text>
          )}
          <Button
            type="submit"
            size="sm"
            height="38px"
            bg="verdigris"
            color="onVerdigris"
            disabled={busy}
          >
            {act}
          </Button>
        </form>
      </Flex>
    </Flex>
  );
}

interface FieldProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** What a browser's own list of names and passwords knows it as. */
  known: "username" | "current-password" | "new-password";
  first?: boolean;
}

export function EntranceField({ label, value, onChange, known, first }: FieldProps) {
  return (
    <Flex asChild direction="column" gap="4px">
      <label>
        <Text as="span" fontSize="12px" fontWeight="600" color="inkSoft">
          {label}
        </Text>
        <Input
          size="sm"
          height="38px"
          bg="paper"
          borderColor="rule"
          type={known === "username" ? "text" : "password"}
          autoComplete={known}
          autoFocus={first}
          required
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      </label>
    </Flex>
  );
}
