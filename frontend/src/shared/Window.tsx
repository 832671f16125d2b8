/* A window over the page: its title, its content, and the three ways to close it (Escape, beside
   it, the cross). */
import { CloseButton, Dialog, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";

export function Window({
  title,
  width,
  onClose,
  children,
}: {
  title: string;
  width: string;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open onOpenChange={(change) => !change.open && onClose()} placement="center">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="sheet" color="ink" maxWidth={width} my="24px">
            <Dialog.Header pb="8px">
              <Dialog.Title fontSize="16px">{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>{children}</Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" color="ink" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
