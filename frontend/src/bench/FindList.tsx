/* What is found: every act of the bench by what people call it. */
import { chakra, Kbd, Text } from "@chakra-ui/react";
import { Command } from "cmdk";
import { t } from "../shared/words";
import { actionsOf, type Acting } from "./actions";
import { FIELD, type Typed } from "./FindBox";

const Input = chakra(Command.Input);
const List = chakra(Command.List);
const Item = chakra(Command.Item);
const Empty = chakra(Command.Empty);

interface Props extends Acting, Typed {
  onClose: () => void;
}

export function FindList({ bench, desk, pages, text, onText, onClose }: Props) {
  return (
    <Command label={t("Find")} loop>
      <Input autoFocus value={text} onValueChange={onText} {...FIELD} />
      <List maxHeight="380px" overflowY="auto" p="6px">
        <Empty p="14px" color="inkSoft">
          {t("Nothing is called that here. Try another word for it, or a shorter one.")}
        </Empty>
        {actionsOf(bench, desk, pages).map(({ name, key, where, also, act }) => (
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
  );
}
