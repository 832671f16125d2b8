/* That a page or a part is on its way; not said of what is there at once. */
import { Flex, Spinner, Text, type FlexProps } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { t } from "./words";

const QUIET_MS = 400;

interface Props extends FlexProps {
  words?: string;
}

export function Coming({ words = t("It is coming…"), ...props }: Props) {
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), QUIET_MS);
    return () => clearTimeout(timer);
  }, []);
  return (
    <Flex
      height="100%"
      align="center"
      justify="center"
      gap="10px"
      p="20px"
      role={late ? "status" : undefined}
      {...props}
    >
      {late && (
        <>
          <Spinner size="sm" />
          <Text>{words}</Text>
        </>
      )}
    </Flex>
  );
}
