/* Where the picture as shot is, reduced for the screen. */
import type { PictureState } from "../api/client";

export const proxyOf = ({ addresses }: Pick<PictureState, "addresses">): string =>
  `${addresses.original}/proxy.jpg`;
