/** Outlines on the map: turned, moved, and how near they are to each other. Millimetres. */

export type Point = readonly [number, number];
export type Ring = readonly (readonly number[])[];

/** A ring turned about the origin by degrees, to the left. */
export function turned(ring: Ring, degrees: number): Point[] {
  const angle = (degrees * Math.PI) / 180;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return ring.map(([x = 0, y = 0]) => [c * x - s * y, s * x + c * y]);
}

export const moved = (ring: Ring, dx: number, dy: number): Point[] =>
  ring.map(([x = 0, y = 0]) => [x + dx, y + dy]);

/** A ring as a path of the map, whose y runs down. */
export const path = (rings: readonly Ring[]): string =>
  rings.map((ring) => `M${ring.map(([x = 0, y = 0]) => `${x},${-y}`).join("L")}Z`).join("");

export interface Box {
  low: Point;
  high: Point;
}

export function boxOf(ring: Ring): Box {
  const xs = ring.map(([x = 0]) => x);
  const ys = ring.map(([, y = 0]) => y);
  return { low: [Math.min(...xs), Math.min(...ys)], high: [Math.max(...xs), Math.max(...ys)] };
}

/** How far a point is from a piece of a line. */
function fromPiece([px, py]: Point, [ax, ay]: Point, [bx, by]: Point): number {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const t = length ? Math.max(0, Math.min(1, ((px - ax) * dx + (py - ay) * dy) / length)) : 0;
  return Math.hypot(px - ax - t * dx, py - ay - t * dy);
}

function inside([px, py]: Point, ring: readonly Point[]): boolean {
  let within = false;
  ring.forEach(([ax, ay], k) => {
    const [bx, by] = ring[(k + 1) % ring.length] ?? [ax, ay];
    if (ay > py !== by > py && px < ((bx - ax) * (py - ay)) / (by - ay) + ax) within = !within;
  });
  return within;
}

/** Open room between two outer rings; 0 where they overlap. */
export function room(one: readonly Point[], two: readonly Point[]): number {
  const [a, b] = [one[0], two[0]];
  if (!a || !b) return Infinity;
  if (inside(a, two) || inside(b, one)) return 0;
  let least = Infinity;
  for (const [own, other] of [
    [one, two],
    [two, one],
  ] as const)
    for (const point of own)
      other.forEach((from, k) => {
        const to = other[(k + 1) % other.length] ?? from;
        least = Math.min(least, fromPiece(point, from, to));
      });
  return least;
}

/** Least room by boxes, which is never more than by the rings themselves. */
export const roomOfBoxes = (a: Box, b: Box): number =>
  Math.hypot(
    Math.max(a.low[0] - b.high[0], b.low[0] - a.high[0], 0),
    Math.max(a.low[1] - b.high[1], b.low[1] - a.high[1], 0),
  );

/** How far a ring reaches beyond another one, by its corners. */
export function beyond(ring: readonly Point[], plate: readonly Point[]): number {
  let most = 0;
  for (const point of ring) {
    if (inside(point, plate)) continue;
    let least = Infinity;
    plate.forEach((from, k) => {
      least = Math.min(least, fromPiece(point, from, plate[(k + 1) % plate.length] ?? from));
    });
    most = Math.max(most, least);
  }
  return most;
}
