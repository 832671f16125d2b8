import { describe, expect, it } from "vitest";
import { besideOf, SIZE_PX } from "./loupePlace";

const telephone = { width: 390, height: 345 };
const desk = { width: 990, height: 660 };

describe("the loupe", () => {
  it("lies within the stage and never over what it shows, wherever that is", () => {
    for (const { width, height } of [telephone, desk])
      for (let x = 5; x < width; x += 23)
        for (let y = 5; y < height; y += 23) {
          const [left, top] = besideOf([x, y], { width, height });
          expect(left).toBeGreaterThanOrEqual(0);
          expect(top).toBeGreaterThanOrEqual(0);
          expect(left + SIZE_PX).toBeLessThanOrEqual(width);
          expect(top + SIZE_PX).toBeLessThanOrEqual(height);
          // A circle: the place is outside it.
          const [dx, dy] = [x - left - SIZE_PX / 2, y - top - SIZE_PX / 2];
          expect(Math.hypot(dx, dy)).toBeGreaterThan(SIZE_PX / 2);
        }
  });
});
