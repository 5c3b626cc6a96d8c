import { describe, expect, it } from "vitest";

import {
  heightAt,
  inView,
  laneScale,
  layerAt,
  placeOf,
  stepLine,
} from "../src/desk/lanes/scale";

const tops = [0.2, 0.5, 0.6, 1.0];
const seconds = [60, 30, 0, 90];

describe("the axis of the lanes", () => {
  it("finds the layer under a place", () => {
    const scale = laneScale("height", tops, seconds, 0, 1000);
    expect([10, 210, 499, 550, 999].map((px) => layerAt(scale, px))).toEqual([0, 1, 1, 2, 3]);
    // beyond the ends it is the outermost layer
    expect([layerAt(scale, -50), layerAt(scale, 5000)]).toEqual([0, 3]);
  });

  it("leads from heights to places and back, by height and by time", () => {
    for (const axis of ["height", "time"] as const) {
      const scale = laneScale(axis, tops, seconds, 40, 740);
      for (const z of [0.1, 0.35, 0.8, 1.0]) {
        expect(heightAt(scale, tops, placeOf(scale, tops, z))).toBeCloseTo(z, 9);
      }
    }
  });

  it("gives time the room it takes", () => {
    const scale = laneScale("time", tops, seconds, 0, 300);
    expect(placeOf(scale, tops, 0.2)).toBeCloseTo(100);
    expect(placeOf(scale, tops, 1.0)).toBeCloseTo(300);
  });

  it("shows a part of the axis", () => {
    const scale = laneScale("height", tops, seconds, 0, 100, [0.5, 1]);
    expect(inView(scale)).toEqual([2, 4]);
  });

  it("keeps the highest value of the layers that share a pixel", () => {
    const many = Array.from({ length: 1000 }, (_, k) => (k + 1) / 100);
    const scale = laneScale("height", many, many, 0, 50);
    const values = many.map((_, k) => (k === 503 ? 9 : 1));
    expect(stepLine(scale, values, (v) => v)).toContain(" 9.0");
    expect(stepLine(scale, values, (v) => v).match(/[ML]/g)?.length).toBeLessThan(210);
  });
});
