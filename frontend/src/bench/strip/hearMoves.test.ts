import { expect, test } from "vitest";
import { hearMoves } from "./hearMoves";

function told(target: EventTarget, at: number) {
  const event = new Event("pointerrawupdate");
  Object.defineProperty(event, "timeStamp", { value: at });
  target.dispatchEvent(event);
}

test("a quick mouse is heard a hundred times a second, and no more once it is let go", () => {
  const target = new EventTarget();
  const heard: number[] = [];
  const stop = hearMoves(target, (event) => heard.push(event.timeStamp));
  for (let at = 1000; at < 1050; at += 1) told(target, at);
  expect(heard).toEqual([1000, 1008, 1016, 1024, 1032, 1040, 1048]);
  stop();
  told(target, 2000);
  expect(heard).toHaveLength(7);
});
