/** Turns about the axes of the bed, and what leans out after them. */
import { type BufferGeometry, Matrix4, Quaternion, Vector3 } from "three";

export const AXES = ["x", "y", "z"] as const;
export type Axis = (typeof AXES)[number];
/** Degrees about x, y, z, one after the other, as a plan has them. */
export type Turns = readonly [number, number, number];

const UNIT: Record<Axis, Vector3> = {
  x: new Vector3(1, 0, 0),
  y: new Vector3(0, 1, 0),
  z: new Vector3(0, 0, 1),
};
const RADIANS = Math.PI / 180;

/** A turn about one axis of the bed. */
export const about = (axis: Axis, degrees: number): Quaternion =>
  new Quaternion().setFromAxisAngle(UNIT[axis], degrees * RADIANS);

/** The turns that come to those there are and one more about an axis of the bed. */
export function withTurn(turns: Turns, axis: Axis, degrees: number): Turns {
  const now = AXES.reduce(
    (sum, one, k) => about(one, turns[k] ?? 0).multiply(sum),
    new Quaternion(),
  );
  const m = new Matrix4().makeRotationFromQuaternion(about(axis, degrees).multiply(now));
  const e = m.elements;
  // rows and columns as they are written: entry (row, column) is e[4 * column + row]
  const at = (row: number, column: number) => e[4 * column + row] ?? 0;
  const y = Math.asin(Math.max(-1, Math.min(1, -at(2, 0))));
  const level = Math.abs(at(2, 0)) > 1 - 1e-9;
  // looking along x one of the other two is free: it is left at 0
  const x = level ? Math.atan2(-at(1, 2), at(1, 1)) : Math.atan2(at(2, 1), at(2, 2));
  const z = level ? 0 : Math.atan2(at(1, 0), at(0, 0));
  return [x, y, z].map((v) => Number((v / RADIANS).toFixed(3)) + 0) as unknown as Turns;
}

/** Lowest point of a geometry after a turn about the origin (mm). */
export function lowest(geometry: BufferGeometry, turn: Quaternion): number {
  const { x, y, z } = new Vector3(0, 0, 1).applyQuaternion(turn.clone().invert());
  const p = geometry.getAttribute("position").array;
  let low = Infinity;
  for (let k = 0; k < p.length; k += 3)
    low = Math.min(low, x * (p[k] ?? 0) + y * (p[k + 1] ?? 0) + z * (p[k + 2] ?? 0));
  return low;
}

/**
 * Area (mm²) that leans out by more than an angle (degrees) after a turn, what lies on the bed left
 * out.
 */
export function leaningOut(geometry: BufferGeometry, turn: Quaternion, angle: number): number {
  const up = new Vector3(0, 0, 1).applyQuaternion(turn.clone().invert());
  const p = geometry.getAttribute("position").array;
  const low = lowest(geometry, turn) + 0.02;
  const least = Math.sin(angle * RADIANS);
  let sum = 0;
  for (let k = 0; k < p.length; k += 9) {
    const [ax = 0, ay = 0, az = 0] = [p[k], p[k + 1], p[k + 2]];
    const [ux, uy, uz] = [(p[k + 3] ?? 0) - ax, (p[k + 4] ?? 0) - ay, (p[k + 5] ?? 0) - az];
    const [vx, vy, vz] = [(p[k + 6] ?? 0) - ax, (p[k + 7] ?? 0) - ay, (p[k + 8] ?? 0) - az];
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const twice = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (-(nx * up.x + ny * up.y + nz * up.z) <= least * twice) continue;
    const height = (q: number) =>
      up.x * (p[q] ?? 0) + up.y * (p[q + 1] ?? 0) + up.z * (p[q + 2] ?? 0);
    if (Math.max(height(k), height(k + 3), height(k + 6)) > low) sum += twice / 2;
  }
  return sum;
}
