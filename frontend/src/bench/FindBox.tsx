/* Find anything: every act of the bench by what people call it; done at once, with its key and
   where it lives. What is typed before the list has come is not lost. */
import { chakra, Dialog, Portal } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../shared/words";
import { lazily } from "../shared/later";
import type { Acting } from "./actions";

const Input = chakra("input");

export interface Typed {
  text: string;
  onText: (text: string) => void;
}

export const FIELD = {
  placeholder: t("straighten, crop, before and after…"),
  width: "100%",
  px: "16px",
  height: "46px",
  bg: "transparent",
  fontSize: "15px",
  borderBottomWidth: "1px",
  borderColor: "rule",
  outline: "none",
} as const;

const FindList = lazily(async () => (await import("./FindList")).FindList, {
  meanwhile: ({ text, onText }: Typed) => (
    <Input
      autoFocus
      aria-label={t("Find")}
      value={text}
      onChange={(event) => onText(event.target.value)}
      {...FIELD}
    />
  ),
});

export function FindBox({ onClose, ...acting }: Acting & { onClose: () => void }) {
  const [text, setText] = useState("");
  const typed = { text, onText: setText };
  return (
    <Dialog.Root open onOpenChange={(change) => !change.open && onClose()} placement="top">
      <Portal>
        <Dialog.Backdrop bg="blackAlpha.400" />
        <Dialog.Positioner>
          <Dialog.Content bg="sheet" color="ink" maxWidth="520px" mt="72px" aria-label={t("Find")}>
            <FindList {...acting} {...typed} onClose={onClose} />
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}

FindBox.load = FindList.load;
