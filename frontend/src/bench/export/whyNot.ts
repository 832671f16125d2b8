/* Why a file cannot be made yet, in words. */
import { t } from "../../shared/words";

interface Why {
  allowed: boolean;
  sizing: boolean;
  sized: boolean;
  starting: boolean;
  enlarging: boolean;
}

/** Why it cannot be exported yet. */
export function whyNot({ allowed, sizing, sized, starting, enlarging }: Why): string | undefined {
  if (!allowed)
    return t("The set is shared with you for working, not for exporting; ask its owner for more.");
  if (starting) return t("It is on its way.");
  if (sizing) return t("The size is being worked out.");
  if (!sized) return t("The size above is not one that a file can have.");
  if (enlarging) return t("It would be enlarged: say above that you want that, or choose less.");
  return undefined;
}
