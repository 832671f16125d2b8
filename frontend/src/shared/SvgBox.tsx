import { chakra } from "@chakra-ui/react";

/**
 * An svg element that knows the theme's tokens; the colours of the vial are at hand as variables.
 */
export const SvgBox = chakra("svg", {
  base: {
    "--tube": "{colors.tube}",
    "--bubble": "{colors.bubble}",
    "--rim": "{colors.bubbleRim}",
    "--verdigris": "{colors.verdigris}",
    "--stage": "{colors.stage}",
    "--soft": "{colors.inkSoft}",
  },
});
