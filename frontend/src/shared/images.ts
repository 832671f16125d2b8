/**
 * For an image that takes the server long: when it is no longer shown, nobody waits for it any
 * more.
 */
export const givenUp = (image: HTMLImageElement | null) => () => image?.removeAttribute("src");

/** Why there is no image: it tells nothing of that itself, the same address does. */
export async function problemAt(src: string): Promise<string | undefined> {
  const { problem }: { problem?: string } = await fetch(src)
    .then((answer) => answer.json())
    .catch(() => ({}));
  return problem;
}
