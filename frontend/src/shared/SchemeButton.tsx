import { Moon, Sun } from "lucide-react";
import { useScheme } from "../theme/useScheme";
import { IconButton } from "./IconButton";

export function SchemeButton() {
  const [scheme, toggle] = useScheme();
  const other = scheme === "dark" ? "light" : "dark";
  return (
    <IconButton
      label={`Use the ${other} scheme`}
      icon={scheme === "dark" ? Sun : Moon}
      onClick={toggle}
    />
  );
}
