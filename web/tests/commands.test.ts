import { describe, expect, it } from "vitest";

import { type Command, meant, ranked, withNumber } from "../src/command/commands";

const named = (words: string, also = ""): Command => ({
  key: words,
  words,
  also,
  kind: "",
  run: null,
});

describe("what is typed", () => {
  it("means a text when every word begins one of its words", () => {
    expect(meant("inf den", "Infill density")).toBeGreaterThan(0);
    expect(meant("den inf", "Infill density")).toBeGreaterThan(0);
    expect(meant("infill speed", "Infill density")).toBe(0);
    expect(meant("ecrou", "Écrou M4")).toBeGreaterThan(0);
  });

  it("means whole words before begun ones, and short texts before long ones", () => {
    const all = [
      named("Infill angle of walls"),
      named("Walls"),
      named("Wall thickness"),
      named("Time ledger"),
    ];
    expect(ranked("walls", all, 9).map(({ words }) => words)).toEqual([
      "Walls",
      "Infill angle of walls",
    ]);
    expect(ranked("wall", all, 2)).toHaveLength(2);
  });

  it("has its value at the end, with a unit or without", () => {
    expect(withNumber("infill 12")).toEqual(["infill", 12]);
    expect(withNumber("outer wall 0,45 mm")).toEqual(["outer wall", 0.45]);
    expect(withNumber("turn z -15")).toEqual(["turn z", -15]);
    expect(withNumber("supports on")).toEqual(["supports on", null]);
  });
});
