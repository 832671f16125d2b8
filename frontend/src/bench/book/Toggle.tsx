import { Button } from "@chakra-ui/react";
import type { ReactNode } from "react";

interface Props {
  on: boolean;
  label: string;
  title?: string;
  small?: boolean;
  onClick: () => void;
  children: ReactNode;
}

/** A small button that stays down. */
export function Toggle({ on, label, title, small, onClick, children }: Props) {
  return (
    <Button
      size="2xs"
      height={small ? "18px" : "22px"}
      minWidth="0"
      px={small ? "5px" : "7px"}
      fontSize={small ? "11px" : undefined}
      variant="outline"
      bg="sheet"
      fontWeight="500"
      borderColor={on ? "verdigris" : "rule"}
      color={on ? "verdigris" : "inkSoft"}
      aria-pressed={on}
      aria-label={label}
      title={title}
      onClick={onClick}
    >
      {children}
    </Button>
  );
}
