/** Where things lie on the chart in pixels, and how labels keep clear of them. */

/** Room around what is drawn. */
export const PAD = { left: 44, right: 16, top: 24, bottom: 34 };

export type Spot = [number, number];

/** Places along a line through some, close enough that no tag lies between two. */
export function along(line: Spot[]): Spot[] {
  return line.flatMap(([px, py], k) => {
    const [qx, qy] = line[k + 1] ?? [px, py];
    const steps = Math.max(1, Math.ceil(Math.hypot(qx - px, qy - py) / 12));
    return Array.from({ length: steps }, (_, n): Spot => {
      const share = n / steps;
      return [px + share * (qx - px), py + share * (qy - py)];
    });
  });
}

/** Places on a ring as large as the handle, and its middle. */
export function around([px, py]: Spot): Spot[] {
  const far = 10;
  return [-far, 0, far].flatMap((dx) => [-far, 0, far].map((dy): Spot => [px + dx, py + dy]));
}

/** Places along a label that begins here: the tops and the feet of its letters. */
export function alongLabel(px: number, py: number): Spot[] {
  return [0, 15, 30, 45, 60].flatMap((along): Spot[] => [
    [px + along, py - 5],
    [px + along, py + 5],
  ]);
}

/** How far up or down a tag goes where what is nearer is taken, in pixels. */
const FURTHER = [0, 24, 48, 72];

/**
 * Where a tag of a size lies so many pixels aside of a place, within left, right, top and bottom:
 * at the corner where it covers least of what is drawn, or further up or down where that is less
 * still; below on the left first, because nothing is quicker and finer than the frontier.
 */
export function freest(
  [hx, hy]: Spot,
  [wide, tall]: Spot,
  [left, right, top, bottom]: [number, number, number, number],
  drawn: Spot[],
  aside = 18,
): Spot {
  const clamped = (v: number, low: number, high: number) => Math.max(low, Math.min(v, high));
  const corners = FURTHER.flatMap((further) =>
    [
      [hx - aside - wide, hy + aside / 2 + 1 + further],
      [hx - aside - wide, hy - aside / 2 - 1 - tall - further],
      [hx + aside, hy - aside / 2 - 1 - tall - further],
      [hx + aside, hy + aside / 2 + 1 + further],
    ].map(([tx, ty]): Spot => [
      clamped(tx ?? 0, left, right - wide),
      clamped(ty ?? 0, top, bottom - tall),
    ]),
  );
  const covered = ([tx, ty]: Spot) =>
    [...drawn, [hx, hy] as Spot].filter(
      ([px, py]) => px > tx - 3 && px < tx + wide + 3 && py > ty - 3 && py < ty + tall + 3,
    ).length;
  return corners.reduce((best, one) => (covered(one) < covered(best) ? one : best));
}

/** A line through places, as a path. */
export function pathOf(line: Spot[]): string {
  return line
    .map(([px, py], k) => `${k ? "L" : "M"}${px.toFixed(1)} ${py.toFixed(1)}`)
    .join("");
}

/** Room a label takes; where the chart has less on the right, it stands on the left. */
const WIDE = 66;
/** How far a label begins from its place, and how far where the handle lies on that. */
const ASIDE = 6;
const BESIDE_HANDLE = 17;

/** Where the label of a place begins, or ends where it stands on the left: clear of the handle. */
export function labelAt([px, py]: Spot, [hx, hy]: Spot, width: number) {
  const aside = Math.hypot(px - hx, py - hy) < BESIDE_HANDLE ? BESIDE_HANDLE : ASIDE;
  const left = px > width - WIDE - aside;
  return { x: px + (left ? -aside : aside), left };
}

/** Labels that keep their distance. */
export function spaced<T extends { at: Spot }>(labels: T[]): T[] {
  const out: T[] = [];
  for (const label of labels) {
    const [px, py] = label.at;
    if (out.every(({ at: [qx, qy] }) => Math.abs(qx - px) > 58 || Math.abs(qy - py) > 14))
      out.push(label);
  }
  return out;
}
