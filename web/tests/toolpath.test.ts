import { describe, expect, it } from "vitest";

import { beadAt } from "../src/desk/stage/beads/beadAt";
import {
  moveAt,
  silhouette,
  startsOf,
  topsOf,
  type Toolpath,
} from "../src/desk/state/toolpath";

/** Two layers with a bead each and an empty third one: start, travel, bead, travel, bead. */
const layer = Int32Array.from([-1, 0, 0, 1, 1]);
const path: Toolpath = {
  count: 5,
  features: ["start", "travel", "outer-wall"],
  present: new Set(["travel", "outer-wall"]),
  layer,
  feature: Uint8Array.from([0, 1, 2, 1, 2]),
  x: Float32Array.from([0, 10, 20, 20, 10]),
  y: Float32Array.from([0, 5, 5, 7, 7]),
  z: Float32Array.from([0, 0.2, 0.2, 0.4, 0.4]),
  width: Float32Array.from([0, 0, 0.4, 0, 0.4]),
  height: Float32Array.from([0, 0, 0.2, 0, 0.2]),
  cause: Int32Array.from([-1, -1, -1, -1, -1]),
  speed: Float32Array.from([0, 100, 50, 100, 50]),
  flow: Float32Array.from([0, 0, 4, 0, 4]),
  elapsed: Float64Array.from([60, 61, 63, 64, 66]),
  layerStart: startsOf(layer, 3),
  tops: Float32Array.from([0.2, 0.4, 0.6]),
};

describe("where layers begin", () => {
  it("leaves a layer without moves empty, wherever it lies", () => {
    expect([...startsOf(Int32Array.from([-1, 0, 0, 2, 2]), 4)]).toEqual([1, 3, 3, 5, 5]);
    expect([...startsOf(Int32Array.from([-1]), 2)]).toEqual([1, 1, 1]);
    expect([...path.layerStart]).toEqual([1, 3, 5, 5]);
  });

  it("tells tops by the moves where nothing states them", () => {
    expect([...topsOf(layer, path.z)].map((z) => z.toFixed(1))).toEqual(["0.2", "0.4"]);
  });
});

describe("what lies where", () => {
  it("finds the bead under a point, in its layer only", () => {
    const at = (n: number, x: number, y: number) =>
      beadAt(path, n, null, [0, 0], x, y, new Set(), 0.3)?.move ?? null;
    expect([at(0, 15, 5), at(0, 15, 7), at(1, 15, 7), at(2, 15, 7)]).toEqual([
      2,
      null,
      4,
      null,
    ]);
    expect(beadAt(path, 0, null, [0, 0], 15, 5, new Set(["outer-wall"]), 0.3)).toBeNull();
    expect(beadAt(path, 0, 1, [0, 0], 15, 5, new Set(), 0.3)).toBeNull();
  });

  it("finds the move that is made at a time", () => {
    expect([0, 60.5, 62, 65, 99].map((t) => moveAt(path, t))).toEqual([0, 1, 2, 4, 4]);
  });

  it("draws the side of the part, with nothing where nothing is laid", () => {
    const { low, high } = silhouette(path);
    expect([...low]).toEqual([5, 7, Infinity]);
    expect([...high]).toEqual([5, 7, -Infinity]);
  });
});
