/* A small button with a sign in place of words; what it is called stands in its tooltip. */
import type { ButtonProps } from "@chakra-ui/react";
import type { LucideIcon } from "lucide-react";
import { QuietButton } from "./Part";

interface Props extends Omit<ButtonProps, "children"> {
  label: string;
  icon: LucideIcon;
}

export function IconButton({ label, icon: Icon, title = label, ...more }: Props) {
  return (
    <QuietButton height="30px" minWidth="30px" px="0" aria-label={label} title={title} {...more}>
      <Icon size={16} strokeWidth={1.8} aria-hidden />
    </QuietButton>
  );
}
