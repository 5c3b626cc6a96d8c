/**
 * The common axis of the lanes: height, or elapsed time, from the bed at the left to the top at the
 * right.
 */
import { scaleLinear, type ScaleLinear } from "d3-scale";

export type Axis = "height" | "time";
/** The part of the axis that is shown, as shares of the whole. */
export type View = readonly [number, number];
export const WHOLE: View = [0, 1];

export interface LaneScale {
  axis: Axis;
  x: ScaleLinear<number, number>;
  /** Borders of the layers along the axis: N + 1 values in its unit. */
  edges: Float64Array;
  left: number;
  right: number;
}

export function laneScale(
  axis: Axis,
  tops: number[],
  seconds: number[],
  left: number,
  right: number,
  view: View = WHOLE,
): LaneScale {
  const edges = new Float64Array(tops.length + 1);
  let total = 0;
  tops.forEach((top, k) => {
    total += seconds[k] ?? 0;
    edges[k + 1] = axis === "height" ? top : total / 60;
  });
  const end = edges.at(-1) || 1;
  return {
    axis,
    edges,
    left,
    right,
    x: scaleLinear()
      .domain([view[0] * end, view[1] * end])
      .range([left, right]),
  };
}

/** The layer under a place on the axis. */
export function layerAt(scale: LaneScale, px: number): number {
  const value = scale.x.invert(px);
  let low = 0;
  let high = scale.edges.length - 2;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((scale.edges[middle + 1] ?? 0) <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The place of a height on the axis, whatever the axis counts. */
export function placeOf(scale: LaneScale, tops: number[], z: number): number {
  if (scale.axis === "height") return scale.x(z);
  let k = 0;
  while (k < tops.length - 1 && (tops[k] ?? 0) < z) k++;
  const bottom = k ? (tops[k - 1] ?? 0) : 0;
  const share = Math.min(
    1,
    Math.max(0, (z - bottom) / Math.max((tops[k] ?? 1) - bottom, 1e-9)),
  );
  return scale.x(
    (scale.edges[k] ?? 0) + share * ((scale.edges[k + 1] ?? 0) - (scale.edges[k] ?? 0)),
  );
}

/** The height under a place on the axis. */
export function heightAt(scale: LaneScale, tops: number[], px: number): number {
  if (scale.axis === "height") return scale.x.invert(px);
  const k = layerAt(scale, px);
  const bottom = k ? (tops[k - 1] ?? 0) : 0;
  const share =
    (scale.x.invert(px) - (scale.edges[k] ?? 0)) /
    Math.max((scale.edges[k + 1] ?? 1) - (scale.edges[k] ?? 0), 1e-9);
  return bottom + Math.min(1, Math.max(0, share)) * ((tops[k] ?? 0) - bottom);
}

/** First and last + 1 of the layers in view. */
export function inView(scale: LaneScale): [number, number] {
  return [layerAt(scale, scale.left), layerAt(scale, scale.right) + 1];
}

/**
 * A stepped line through one value a layer; many layers to a pixel become the envelope of that
 * pixel.
 */
export function stepLine(
  scale: LaneScale,
  values: ArrayLike<number>,
  y: (value: number) => number,
): string {
  const [first, last] = inView(scale);
  const parts: string[] = [];
  let k = first;
  while (k < last) {
    const x0 = Math.max(scale.left, scale.x(scale.edges[k] ?? 0));
    let highest = values[k] ?? 0;
    let end = k + 1;
    while (end < last && scale.x(scale.edges[end + 1] ?? 0) - x0 < 1) {
      highest = Math.max(highest, values[end] ?? 0);
      end++;
    }
    const x1 = Math.min(scale.right, scale.x(scale.edges[end] ?? 0));
    parts.push(
      `${parts.length ? "L" : "M"}${x0.toFixed(1)} ` +
        `${y(highest).toFixed(1)}L${x1.toFixed(1)} ${y(highest).toFixed(1)}`,
    );
    k = end;
  }
  return parts.join("");
}

/** The same as an area down to a base. */
export function steps(
  scale: LaneScale,
  values: ArrayLike<number>,
  y: (value: number) => number,
  base: number,
): string {
  const [first, last] = inView(scale);
  const from = Math.max(scale.left, scale.x(scale.edges[first] ?? 0)).toFixed(1);
  const to = Math.min(scale.right, scale.x(scale.edges[last] ?? 0)).toFixed(1);
  return `M${from} ${base}${stepLine(scale, values, y).replace(/^M/, "L")}L${to} ${base}Z`;
}
