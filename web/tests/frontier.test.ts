import { describe, expect, it } from "vitest";

import { hullOf } from "../src/desk/panels/tradeoff/frontier";
import { alongLabel, freest, labelAt, type Spot } from "../src/desk/panels/tradeoff/spots";
import { keysOf } from "../src/frame/shortcuts";

const at = (time_s: number, um: number) => ({ time_s, um });

describe("a frontier that is solved in part", () => {
  it("is drawn along the lower hull, from end to end", () => {
    const points = [at(0, 100), at(1, 99), at(2, 60), at(3, 59), at(4, 10)];
    expect(hullOf(points, (p) => p.um).map((p) => p.time_s)).toEqual([0, 4]);
    const bent = [at(0, 100), at(1, 60), at(2, 20), at(4, 10)];
    expect(hullOf(bent, (p) => p.um).map((p) => p.time_s)).toEqual([0, 2, 4]);
  });
});

describe("the tag of the target", () => {
  const room: [number, number, number, number] = [0, 400, 0, 300];
  const place = (drawn: Spot[]) => freest([200, 150], [100, 36], room, drawn);
  it("lies below on the left where nothing is drawn", () => {
    expect(place([])).toEqual([82, 160]);
  });
  it("goes further where every corner beside the handle is taken", () => {
    const taken: Spot[] = [80, 260].flatMap((x) =>
      [110, 150, 175].flatMap((y): Spot[] => alongLabel(x, y)),
    );
    const [x, y] = place(taken);
    expect(taken.some(([px, py]) => px > x && px < x + 100 && py > y && py < y + 36)).toBe(
      false,
    );
  });
});

describe("the label of an even stack", () => {
  it("keeps clear of the handle, and within the chart", () => {
    expect(labelAt([100, 50], [300, 50], 400)).toEqual({ x: 106, left: false });
    expect(labelAt([100, 50], [103, 52], 400)).toEqual({ x: 117, left: false });
    expect(labelAt([325, 50], [325, 50], 400)).toEqual({ x: 308, left: true });
  });
});

describe("what a key press is called", () => {
  const press = { ctrlKey: false, metaKey: false, altKey: false, shiftKey: false };
  it("names modifiers once, and a sign by itself", () => {
    expect(keysOf({ ...press, key: "?", shiftKey: true })).toBe("?");
    expect(keysOf({ ...press, key: "Z", shiftKey: true, ctrlKey: true })).toBe("Ctrl Shift z");
    expect(keysOf({ ...press, key: "z", metaKey: true })).toBe("Ctrl z");
    expect(keysOf({ ...press, key: "Shift", shiftKey: true })).toBe("");
  });
});
