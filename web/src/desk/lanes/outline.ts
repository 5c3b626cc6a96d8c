/** The part lying on its side, from its triangles: there before any layer is laid. */
import type { PartShape } from "../stage/useShape";

/**
 * Least and greatest y of every layer with its top at one of ``tops``; a layer without anything
 * has none. Every edge of a triangle is followed through the layers it passes.
 */
export function outlineOf(
  { geometry }: PartShape,
  tops: readonly number[],
): { low: Float32Array; high: Float32Array } {
  const at = geometry.getAttribute("position").array as Float32Array;
  const low = new Float32Array(tops.length).fill(Infinity);
  const high = new Float32Array(tops.length).fill(-Infinity);
  const layerOf = (z: number): number => {
    let [from, to] = [0, tops.length - 1];
    while (from < to) {
      const middle = (from + to) >> 1;
      if ((tops[middle] ?? 0) < z) from = middle + 1;
      else to = middle;
    }
    return from;
  };
  const note = (k: number, y: number) => {
    if (y < (low[k] ?? 0)) low[k] = y;
    if (y > (high[k] ?? 0)) high[k] = y;
  };
  for (let n = 0; n < at.length / 3; n++) {
    const m = n % 3 === 2 ? n - 2 : n + 1;
    const [y0, z0, y1, z1] = [at[3 * n + 1], at[3 * n + 2], at[3 * m + 1], at[3 * m + 2]];
    if (y0 === undefined || z0 === undefined || y1 === undefined || z1 === undefined) continue;
    const [first, last] = [layerOf(Math.min(z0, z1)), layerOf(Math.max(z0, z1))];
    note(first, z0 < z1 ? y0 : y1);
    note(last, z0 < z1 ? y1 : y0);
    for (let k = first; k < last; k++) {
      const y = y0 + ((y1 - y0) * ((tops[k] ?? 0) - z0)) / (z1 - z0);
      note(k, y);
      note(k + 1, y);
    }
  }
  return { low, high };
}
