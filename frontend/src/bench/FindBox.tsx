/* Find anything: every act of the bench by what people call it; done at once, with its key and
   where it lives. */
import { chakra, Dialog, Kbd, Portal, Text } from "@chakra-ui/react";
import { Command } from "cmdk";
import type { Action } from "./actions";

const Input = chakra(Command.Input);
const List = chakra(Command.List);
const Item = chakra(Command.Item);
const Empty = chakra(Command.Empty);

interface Props {
  actions: Action[];
  onClose: () => void;
}

export function FindBox({ actions, onClose }: Props) {
  return (
    <Dialog.Root open onOpenChange={(change) => !change.open && onClose()} placement="top">
      <Portal>
        <Dialog.Backdrop bg="blackAlpha.400" />
        <Dialog.Positioner>
          <Dialog.Content bg="sheet" color="ink" maxWidth="520px" mt="72px" aria-label="Find">
            <Command label="Find" loop>
              <Input
                autoFocus
                placeholder="straighten, crop, before and after…"
                width="100%"
                px="16px"
                height="46px"
                bg="transparent"
                fontSize="15px"
                borderBottomWidth="1px"
                borderColor="rule"
                outline="none"
              />
              <List maxHeight="380px" overflowY="auto" p="6px">
                <Empty p="14px" color="inkSoft">
                  Nothing is called that here.
                </Empty>
                {actions.map(({ name, key, where, also, act }) => (
                  <Item
                    key={name}
                    value={name}
                    keywords={also}
                    onSelect={() => {
                      onClose();
                      act();
                    }}
                    display="flex"
                    alignItems="center"
                    gap="10px"
                    px="10px"
                    py="6px"
                    borderRadius="4px"
                    cursor="pointer"
                    _selected={{ bg: "highlight" }}
                  >
                    <Text as="span" fontWeight="600">
                      {name}
                    </Text>
                    <Text as="span" color="inkSoft" fontSize="12px" flex="1">
                      {where}
                    </Text>
                    {key && (
                      <Kbd bg="paperDeep" color="ink">
                        {key}
                      </Kbd>
                    )}
                  </Item>
                ))}
              </List>
            </Command>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
