/** The placed part in the browser: facets with their slopes, flats and attention, out of Arrow. */
import { useQuery } from "@tanstack/react-query";
import { tableFromIPC } from "apache-arrow";
import { BufferAttribute, BufferGeometry } from "three";

import { binary } from "../../api/client";

export interface PartShape {
  geometry: BufferGeometry;
  /** (3, 4) from file to bed coordinates, rows. */
  affine: number[][];
  /** Names of the bodies, by the number facets have. */
  bodies: string[];
}

function readShape(buffer: ArrayBuffer): PartShape {
  const table = tableFromIPC(new Uint8Array(buffer));
  const column = (name: string) => {
    const found = table.getChild(name);
    if (!found) throw new Error(`the shape lacks the column ${name}`);
    return found.toArray() as Float32Array | Uint8Array | Uint16Array;
  };
  const [x, y, z] = [column("x"), column("y"), column("z")];
  const position = new Float32Array(3 * x.length);
  for (let k = 0; k < x.length; k++) position.set([x[k] ?? 0, y[k] ?? 0, z[k] ?? 0], 3 * k);
  const geometry = new BufferGeometry().setAttribute(
    "position",
    new BufferAttribute(position, 3),
  );
  geometry.computeVertexNormals();
  for (const name of ["slope", "body", "flat", "attention"])
    geometry.setAttribute(
      `a_${name}`,
      new BufferAttribute(Float32Array.from(column(name)), 1),
    );
  geometry.computeBoundingSphere();
  return {
    geometry,
    affine: JSON.parse(table.schema.metadata.get("affine") ?? "[]") as number[][],
    bodies: JSON.parse(table.schema.metadata.get("bodies") ?? "[]") as string[],
  };
}

/** ``key`` changes when the part stands differently or its attention does. */
export function useShape(plan: number, key: string) {
  return useQuery({
    queryKey: ["shape", plan, key],
    queryFn: async () => readShape(await binary(`/api/plans/${plan}/shape`)),
    staleTime: Infinity,
    gcTime: 30_000,
    placeholderData: (before) => before,
  });
}

/** A point of the file on the bed. */
export const toBed = (
  affine: number[][],
  point: readonly number[],
): [number, number, number] =>
  [0, 1, 2].map((r) =>
    (affine[r] ?? []).reduce(
      (sum, value, c) => sum + value * (c < 3 ? (point[c] ?? 0) : 1),
      0,
    ),
  ) as [number, number, number];

/**
 * A point on the bed in the coordinates of the file: the affine map the other way (its 3 × 3 part
 * by Cramer's rule).
 */
export function toFile(
  affine: number[][],
  point: [number, number, number],
): [number, number, number] {
  const m = affine.map((row) => row.slice(0, 3));
  const v = point.map((value, k) => value - (affine[k]?.[3] ?? 0));
  const det = (a: number[][]) => {
    const [
      [a0 = 0, a1 = 0, a2 = 0] = [],
      [b0 = 0, b1 = 0, b2 = 0] = [],
      [c0 = 0, c1 = 0, c2 = 0] = [],
    ] = a;
    return a0 * (b1 * c2 - b2 * c1) - a1 * (b0 * c2 - b2 * c0) + a2 * (b0 * c1 - b1 * c0);
  };
  const whole = det(m);
  return [0, 1, 2].map(
    (k) =>
      det(m.map((row, r) => row.map((value, c) => (c === k ? (v[r] ?? 0) : value)))) / whole,
  ) as [number, number, number];
}

/** The same to the thousandth of a millimetre, as places are kept. */
export const fileOf = (
  affine: number[][],
  point: [number, number, number],
): [number, number, number] =>
  toFile(affine, point).map((v) => Number(v.toFixed(3))) as [number, number, number];

/**
 * A normal on the bed as one of the file, of unit length: normals are carried by the transpose the
 * other way round.
 */
export function normalInFile(
  affine: number[][],
  normal: [number, number, number],
): [number, number, number] {
  const turned = [0, 1, 2].map((c) =>
    affine.reduce((sum, row, r) => sum + (row[c] ?? 0) * (normal[r] ?? 0), 0),
  );
  const long = Math.hypot(...turned) || 1;
  return turned.map((v) => Number((v / long).toFixed(6))) as [number, number, number];
}
