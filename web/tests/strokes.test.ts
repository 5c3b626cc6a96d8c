import { describe, expect, it } from "vitest";

import { FIRST_BRUSH, withStroke } from "../src/desk/lanes/strokes";

const FINER = { ...FIRST_BRUSH, wide: 4, strength: 25 };

describe("strokes over the layer heights", () => {
  it("reach half of the brush beyond the drag, inside the part", () => {
    expect(withStroke([], FINER, [10, 15], 30)).toEqual([
      { kind: "change", from_mm: 8, to_mm: 17, by: -25 },
    ]);
    const [taller] = withStroke([], { ...FINER, does: "taller" }, [29, 1], 30);
    expect(taller).toEqual({ kind: "change", from_mm: 0, to_mm: 30, by: 25 });
  });

  it("even out more where they pass again, and only there", () => {
    const brush = { ...FINER, does: "even out" as const };
    const once = withStroke([], brush, [10, 14], 30);
    expect(withStroke(once, brush, [14, 18], 30)).toEqual([
      { ...once[0], to_mm: 20, times: 2 },
    ]);
    expect(withStroke(once, brush, [25, 26], 30)).toHaveLength(2);
    expect(withStroke(once, FINER, [12, 13], 30)).toHaveLength(2);
  });

  it("beyond the part are none", () => {
    expect(withStroke([], FINER, [40, 44], 30)).toEqual([]);
  });
});
