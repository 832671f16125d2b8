/**
 * For an image that takes the server long: when it is no longer shown, nobody waits for it any
 * more.
 */
export const givenUp = (image: HTMLImageElement | null) => () => image?.removeAttribute("src");
