/* Two pictures against each other in a window of their own. */
import { Box, Spinner } from "@chakra-ui/react";
import { useState } from "react";
import { Window } from "../shared/Window";
import { TwoPictures, WayButtons, type Named, type Way } from "./TwoPictures";

interface Props {
  title: string;
  first: Named | undefined;
  second: Named | undefined;
  onClose: () => void;
}

export function CompareWindow({ title, first, second, onClose }: Props) {
  const [way, setWay] = useState<Way>("beside");
  return (
    <Window title={title} width="96vw" onClose={onClose}>
      <WayButtons way={way} onWay={setWay} />
      <Box position="relative" height="66vh" mt="10px" bg="stage" overflow="hidden">
        {first && second ? (
          <TwoPictures first={first} second={second} way={way} />
        ) : (
          <Spinner position="absolute" top="50%" left="50%" color="onPicture" />
        )}
      </Box>
    </Window>
  );
}
