import { describe, expect, it } from "vitest";
import { finely, newPointers } from "./pointers";

const finger = (timeStamp: number, width = 30) => ({ pointerType: "touch", width, timeStamp });

describe("which pointer may do what", () => {
  it("lets a finger draw until a pen was seen, then only move the picture", () => {
    const pointers = newPointers();
    expect(pointers.roleOf(finger(0))).toBe("draws");
    pointers.penIs(100);
    expect(pointers.roleOf(finger(1000))).toBe("moves");
    expect(pointers.roleOf({ pointerType: "pen", width: 1, timeStamp: 1000 })).toBe("draws");
    expect(pointers.roleOf({ pointerType: "mouse", width: 1, timeStamp: 1000 })).toBe("draws");
  });

  it("takes no notice of the hand that holds the pen, nor of a palm", () => {
    const pointers = newPointers();
    expect(pointers.roleOf(finger(0, 140))).toBe("nothing");
    pointers.penIs(100);
    expect(pointers.roleOf(finger(200))).toBe("nothing");
  });
});

describe("a slow finger", () => {
  it("moves what it holds a quarter as far, a fast one as far as it goes", () => {
    expect(finely([10, 10], [0.4, 0], 16)).toEqual([10.1, 10]);
    expect(finely([10, 10], [0, 8], 16)).toEqual([10, 18]);
  });

  it("grows between the two without a step", () => {
    const gains = [1, 2, 3].map((px) => finely([0, 0], [px, 0], 16)[0] / px);
    expect(gains).toEqual([...gains].sort((a, b) => a - b));
    expect(new Set(gains).size).toBe(3);
  });
});
