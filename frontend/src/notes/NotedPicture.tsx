/* A picture with notes on places of it: numbered dots, and the words beside them. A press on the
   picture begins another note there; with the keyboard the dot is moved by arrows. */
import { Box, Button, Flex, Image, Text, Textarea } from "@chakra-ui/react";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import { t } from "../shared/words";
import type { Comment } from "../api/client";
import { arrow } from "../shared/keys";
import { QuietButton } from "../shared/Part";
import { timeWords } from "../shared/times";
import { useRoom } from "../shared/useWindow";
import { Dot } from "./Dot";

export interface Words {
  x: number;
  y: number;
  words: string;
}

interface Props {
  image: string;
  alt: string;
  comments: Comment[];
  problem: string | undefined;
  onSay: (said: Words) => Promise<unknown>;
  onRemove: (id: number) => void;
}

const STEP = 0.01;
const within = (share: number) => Math.min(1, Math.max(0, share));

export function NotedPicture(props: Props) {
  const { image, alt, comments, problem, onSay, onRemove } = props;
  const { upright } = useRoom();
  const [place, setPlace] = useState<{ x: number; y: number }>();
  const [words, setWords] = useState("");
  const press = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    setPlace({
      x: within((event.clientX - box.left) / box.width),
      y: within((event.clientY - box.top) / box.height),
    });
  };
  const move = (event: KeyboardEvent<HTMLElement>) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    setPlace(({ x, y } = { x: 0.5, y: 0.5 }) => ({
      x: within(x + way[0] * STEP),
      y: within(y + way[1] * STEP),
    }));
  };
  const say = async () => {
    if (!place) return;
    await onSay({ ...place, words });
    setPlace(undefined);
    setWords("");
  };
  return (
    <Flex direction={upright ? "column" : "row"} flex="1" minHeight="0">
      <Flex flex="1" minWidth="0" minHeight="0" bg="stage" align="center" justify="center" p="18px">
        <Box
          position="relative"
          maxHeight="100%"
          maxWidth="100%"
          cursor="crosshair"
          tabIndex={0}
          role="group"
          aria-label={t("The picture: press where a note belongs, or move its place by the arrows")}
          onPointerUp={press}
          onKeyDown={move}
        >
          <Image
            src={image}
            alt={alt}
            draggable={false}
            maxWidth="100%"
            maxHeight={upright ? "44vh" : "calc(100vh - 110px)"}
          />
          {comments.map((one, index) => (
            <Dot key={one.id} x={one.x} y={one.y} words={String(index + 1)} />
          ))}
          {place && <Dot {...place} words="+" lit />}
        </Box>
      </Flex>
      <Box
        as="aside"
        aria-label={t("Notes")}
        width={upright ? "100%" : "320px"}
        flexShrink={0}
        overflowY="auto"
        p="16px"
        borderLeftWidth="1px"
        borderColor="rule"
      >
        {place ? (
          <Flex asChild direction="column" gap="8px" mb="14px">
            <form
              onSubmit={(event) => {
                event.preventDefault();
                void say();
              }}
            >
              <Textarea
                size="sm"
                rows={3}
                autoFocus
                maxLength={1000}
                aria-label={t("Words for this place")}
                placeholder={t("What is to be said of this place")}
                value={words}
                onChange={(event) => setWords(event.target.value)}
              />
              <Flex gap="8px">
                <Button
                  type="submit"
                  size="xs"
                  height="30px"
                  bg="verdigris"
                  color="onVerdigris"
                  disabled={!words.trim()}
                >
                  {t("Leave this note")}
                </Button>
                <QuietButton height="30px" onClick={() => setPlace(undefined)}>
                  {t("Not now")}
                </QuietButton>
              </Flex>
            </form>
          </Flex>
        ) : (
          <Text color="inkSoft" lineHeight="1.5" mb="14px">
            {t("Press a place of the picture to leave a note on it.")}
          </Text>
        )}
        {problem && (
          <Text role="alert" color="brick" mb="10px">
            {problem}
          </Text>
        )}
        <Box role="list" aria-label={t("Notes on this picture")}>
          {comments.map((one, index) => (
            <Flex key={one.id} role="listitem" gap="10px" py="8px">
              <Text fontFamily="mono" fontWeight="600" color="verdigris">
                {index + 1}
              </Text>
              <Box flex="1" minWidth="0">
                <Text lineHeight="1.4" whiteSpace="pre-wrap" overflowWrap="anywhere">
                  {one.words}
                </Text>
                <Text fontSize="12px" color="inkSoft">
                  {[one.author, timeWords(one.made_at)].filter(Boolean).join(", ")}
                </Text>
              </Box>
              {one.removable && (
                <QuietButton
                  aria-label={t("Remove note {number}", { number: index + 1 })}
                  onClick={() => onRemove(one.id)}
                >
                  {t("Remove")}
                </QuietButton>
              )}
            </Flex>
          ))}
        </Box>
      </Box>
    </Flex>
  );
}
