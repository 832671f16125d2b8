import { Moon, Sun } from "lucide-react";
import { t } from "./words";
import { useScheme } from "../theme/useScheme";
import { IconButton } from "./IconButton";

export function SchemeButton() {
  const [scheme, toggle] = useScheme();
  return (
    <IconButton
      label={scheme === "dark" ? t("Use the light scheme") : t("Use the dark scheme")}
      icon={scheme === "dark" ? Sun : Moon}
      onClick={toggle}
    />
  );
}
