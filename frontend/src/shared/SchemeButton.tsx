import { Button } from "@chakra-ui/react";
import { useScheme } from "../theme/useScheme";

export function SchemeButton() {
  const [scheme, toggle] = useScheme();
  const other = scheme === "dark" ? "light" : "dark";
  return (
    <Button
      variant="outline"
      size="xs"
      height="30px"
      borderColor="rule"
      bg="sheet"
      color="ink"
      onClick={toggle}
      aria-label={`Use the ${other} scheme`}
    >
      {scheme === "dark" ? "☼" : "☾"}
    </Button>
  );
}
