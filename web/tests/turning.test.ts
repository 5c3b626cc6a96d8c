import { BoxGeometry, Quaternion, Vector3 } from "three";
import { expect, test } from "vitest";

import {
  about,
  AXES,
  leaningOut,
  lowest,
  type Turns,
  withTurn,
} from "../src/desk/stage/turn/turning";

const whole = (turns: Turns) =>
  AXES.reduce((sum, axis, k) => about(axis, turns[k] ?? 0).multiply(sum), new Quaternion());

test("turns come to the same as one more about an axis of the bed", () => {
  for (const turns of [
    [0, 0, 0],
    [30, -20, 75],
    [10, 90, 40],
    [-170, 89.9, 5],
  ] as unknown as Turns[])
    for (const axis of AXES)
      for (const degrees of [0, 15, -90, 180]) {
        const meant = about(axis, degrees).multiply(whole(turns));
        const made = whole(withTurn(turns, axis, degrees));
        for (const corner of [new Vector3(1, 2, 3), new Vector3(-3, 1, 0.5)])
          expect(
            corner
              .clone()
              .applyQuaternion(meant)
              .distanceTo(corner.clone().applyQuaternion(made)),
          ).toBeLessThan(1e-3);
      }
});

test("a box leans out with the faces that look down and do not lie on the bed", () => {
  const box = new BoxGeometry(20, 10, 4).toNonIndexed();
  expect(lowest(box, new Quaternion())).toBeCloseTo(-2);
  expect(leaningOut(box, new Quaternion(), 50)).toBe(0);
  // on its long edge, two faces look down by half a right angle
  expect(leaningOut(box, about("x", 45), 40)).toBeCloseTo(20 * 10 + 20 * 4, 3);
  expect(leaningOut(box, about("x", 45), 50)).toBe(0);
  expect(lowest(box, about("x", 90))).toBeCloseTo(-5);
});
