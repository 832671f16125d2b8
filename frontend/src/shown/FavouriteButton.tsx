/* Marks a picture as a favourite, or no more. */
import { Star } from "lucide-react";
import { t } from "../shared/words";
import { HeldButton } from "../shared/Part";

interface Props {
  name: string;
  on: boolean;
  onMark: (on: boolean) => void;
}

export function FavouriteButton({ name, on, onMark }: Props) {
  return (
    <HeldButton
      held={on}
      height="30px"
      aria-label={t("{name} is a favourite", { name })}
      title={on ? t("A favourite; press to mark it no more") : t("Mark as a favourite")}
      onClick={() => onMark(!on)}
    >
      <Star size={16} fill={on ? "currentColor" : "none"} aria-hidden />
    </HeldButton>
  );
}
