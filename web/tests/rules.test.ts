import { describe, expect, it } from "vitest";

import type { Layers } from "../src/api/client";
import { withValue, withValues } from "../src/desk/state/choice";
import { runAround, spansOf } from "../src/desk/lanes/rules";
import { evenAtError, evenAtTime } from "../src/desk/panels/tradeoff/frontier";

describe("what decides", () => {
  it("joins neighbours with the same rule", () => {
    expect(spansOf(["pin", "pin", "time", "pin"])).toEqual([
      { from: 0, to: 2, rule: "pin" },
      { from: 2, to: 3, rule: "time" },
      { from: 3, to: 4, rule: "pin" },
    ]);
    expect(spansOf([])).toEqual([]);
  });

  it("finds the run of layers that share height and rule", () => {
    const layers = {
      count: 4,
      heights_mm: [0.2, 0.1, 0.1, 0.1],
      rule: ["first-layer", "target", "target", "band"],
    } as Layers;
    expect(runAround(layers, 1)).toEqual([1, 3]);
    expect(runAround(layers, 0)).toEqual([0, 1]);
    expect(runAround(layers, 3)).toEqual([3, 4]);
  });
});

describe("the even stacks beside the frontier", () => {
  const even = [
    { height_mm: 0.1, time_s: 300, mean_um: 40, p95_um: 90, max_um: 100, breaks: [] },
    { height_mm: 0.2, time_s: 150, mean_um: 80, p95_um: 180, max_um: 200, breaks: [] },
  ] as unknown as Parameters<typeof evenAtTime>[0];

  it("says what even takes at the same time and at the same surface", () => {
    expect(evenAtTime(even, 225, "p95")).toBeCloseTo(135);
    expect(evenAtError(even, 135, "p95")).toBeCloseTo(225);
  });

  it("says nothing beyond them", () => {
    expect(evenAtTime(even, 100, "p95")).toBeNull();
    expect(evenAtError(even, 400, "mean")).toBeNull();
  });
});

describe("what a maker chose", () => {
  it("keeps only what differs from the default", () => {
    const settings = { body: { walls: 2 } };
    expect(withValue(settings, "body", "walls", 3, 3)).toEqual({});
    expect(withValue(settings, "body", "top_layers", 4, 3)).toEqual({
      body: { walls: 2, top_layers: 4 },
    });
    expect(withValues(settings, "body", { walls: undefined, solid_width: 0.5 })).toEqual({
      body: { solid_width: 0.5 },
    });
  });
});
