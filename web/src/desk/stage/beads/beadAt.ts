/** The bead under a point of a layer, and its figures. */
import type { Feature } from "../../../tokens";
import type { Toolpath } from "../../state/toolpath";
import { reached } from "./questions";

export interface Bead {
  move: number;
  feature: Feature;
  /** Middle of the bead in mm from the middle of the bed, and the height of its top. */
  at: [number, number, number];
  width: number;
  height: number;
  asked: number;
  reached: number;
  flow: number;
  cause: number;
  layer: number;
}

/** The laid bead nearest to a point, if the point is on it or within `slack` mm beside it. */
export function beadAt(
  path: Toolpath,
  layer: number,
  last: number | null,
  origin: [number, number],
  x: number,
  y: number,
  hidden: ReadonlySet<Feature>,
  slack: number,
): Bead | null {
  const from = path.layerStart[layer] ?? 0;
  const to =
    last === null
      ? (path.layerStart[layer + 1] ?? path.count)
      : Math.min(last + 1, path.count);
  const px = x + origin[0];
  const py = y + origin[1];
  let best = -1;
  let near = slack;
  for (let k = Math.max(1, from); k < to; k++) {
    const wide = path.width[k] as number;
    if (wide <= 0 || hidden.has(path.features[path.feature[k] as number] as Feature)) continue;
    const ax = path.x[k - 1] as number;
    const ay = path.y[k - 1] as number;
    const dx = (path.x[k] as number) - ax;
    const dy = (path.y[k] as number) - ay;
    const t = Math.min(
      1,
      Math.max(0, ((px - ax) * dx + (py - ay) * dy) / Math.max(dx * dx + dy * dy, 1e-9)),
    );
    const beside = Math.hypot(px - ax - t * dx, py - ay - t * dy) - wide / 2;
    if (beside < near) {
      near = beside;
      best = k;
    }
  }
  if (best < 0) return null;
  const k = best;
  return {
    move: k,
    feature: path.features[path.feature[k] as number] as Feature,
    width: path.width[k] as number,
    height: path.height[k] as number,
    at: [
      ((path.x[k] as number) + (path.x[k - 1] as number)) / 2 - origin[0],
      ((path.y[k] as number) + (path.y[k - 1] as number)) / 2 - origin[1],
      path.z[k] as number,
    ],
    asked: path.speed[k] as number,
    reached: reached(path, k),
    flow: path.flow[k] as number,
    cause: path.cause[k] as number,
    layer,
  };
}
