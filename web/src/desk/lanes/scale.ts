/** The common axis of the lanes: height, or elapsed time, from the bed at the left to the top at the right. */
import { scaleLinear, type ScaleLinear } from "d3-scale";

export type Axis = "height" | "time";

export interface LaneScale {
  axis: Axis;
  x: ScaleLinear<number, number>;
  /** Borders of the layers along the axis: N + 1 values in its unit. */
  edges: Float64Array;
  width: number;
}

export function laneScale(axis: Axis, tops: number[], seconds: number[], left: number, width: number): LaneScale {
  const edges = new Float64Array(tops.length + 1);
  let total = 0;
  tops.forEach((top, k) => {
    total += seconds[k] ?? 0;
    edges[k + 1] = axis === "height" ? top : total / 60;
  });
  return { axis, edges, width, x: scaleLinear().domain([0, edges.at(-1) || 1]).range([left, width]) };
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

/** A stepped area through one value a layer; many layers to a pixel become the envelope of that pixel. */
export function steps(scale: LaneScale, values: ArrayLike<number>, y: (value: number) => number, base: number): string {
  const parts: string[] = [];
  let k = 0;
  const last = scale.edges.length - 1;
  while (k < last) {
    const x0 = scale.x(scale.edges[k] ?? 0);
    let highest = values[k] ?? 0;
    let end = k + 1;
    while (end < last && scale.x(scale.edges[end + 1] ?? 0) - x0 < 1) {
      highest = Math.max(highest, values[end] ?? 0);
      end++;
    }
    const x1 = scale.x(scale.edges[end] ?? 0);
    parts.push(`L${x0.toFixed(1)} ${y(highest).toFixed(1)}L${x1.toFixed(1)} ${y(highest).toFixed(1)}`);
    k = end;
  }
  const first = scale.x(0).toFixed(1);
  return `M${first} ${base}${parts.join("")}L${scale.x(scale.edges[last] ?? 0).toFixed(1)} ${base}Z`;
}
