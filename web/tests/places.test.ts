import { describe, expect, it } from "vitest";

import type { Setting } from "../src/api/client";
import {
  type Band,
  bandAt,
  bandWords,
  edgeWords,
  overlap,
  withChange,
} from "../src/desk/panels/places/places";

const settings = [
  { name: "body.infill_density", label: "Infill density", unit: "%" },
  { name: "pace.infill_speed", label: "Infill", unit: "mm/s" },
] as Setting[];
const band = (from_mm: number, to_mm: number, rest: Partial<Band> = {}): Band => ({
  name: "",
  from_mm,
  to_mm,
  changes: {},
  ...rest,
});

describe("bands in words", () => {
  it("says what a band does", () => {
    expect(bandWords(band(1, 2), settings)).toBe("changes nothing yet");
    expect(bandWords(band(1, 2, { least_mm: 0.1 }), settings)).toBe("layers 0.1 to … mm");
    const ramp = band(1, 2, {
      changes: { "body.infill_density": 10, "pace.infill_speed": 40 },
      ramps: { "body.infill_density": 60 },
    });
    expect(bandWords(ramp, settings)).toBe("infill 10 → 60 %, infill speed 40 mm/s");
  });

  it("says where an edge is tied", () => {
    const edge = { at: "foot", layer: 1, offset: 0, x: 0, y: 0, z: 0, label: "" } as const;
    expect(edgeWords(edge)).toBe("end of the solid foot");
    expect(edgeWords({ ...edge, at: "layer", layer: 7, offset: -0.5 })).toBe(
      "top of layer 7 − 0.5 mm",
    );
  });

  it("says which bands share a stretch", () => {
    expect(overlap([band(1, 2), band(2, 3)])).toBe("");
    expect(overlap([band(2, 4), band(1, 2.5, { name: "seat" })])).toBe(
      "seat and another share 2.00 to 2.50 mm",
    );
  });

  it("takes a change back with its ramp", () => {
    const changed = band(1, 2, { changes: { "body.walls": 2 }, ramps: { "body.walls": 4 } });
    expect(withChange(changed, "body.walls", undefined)).toMatchObject({
      changes: {},
      ramps: {},
    });
    expect(withChange(changed, "body.walls", 3).changes).toEqual({ "body.walls": 3 });
  });

  it("finds the band at a height", () => {
    expect([0.5, 1, 2.99, 3].map((z) => bandAt([band(1, 3)], z))).toEqual([-1, 0, 0, -1]);
  });
});
