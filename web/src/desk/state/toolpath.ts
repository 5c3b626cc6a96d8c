/** The move table in the browser: typed arrays out of Arrow, and where layers begin. */
import { useQuery } from "@tanstack/react-query";
import { tableFromIPC } from "apache-arrow";

import { binary } from "../../api/client";
import type { Feature } from "../../tokens";

export interface Toolpath {
  count: number;
  features: Feature[];
  /** Features that this path has. */
  present: ReadonlySet<Feature>;
  layer: Int32Array;
  feature: Uint8Array;
  x: Float32Array;
  y: Float32Array;
  z: Float32Array;
  width: Float32Array;
  height: Float32Array;
  /**
   * Number of the reason a solid bead is solid, or of the stand a support belongs to; −1 for none.
   */
  cause: Int32Array;
  speed: Float32Array;
  flow: Float32Array;
  /** Seconds from the start to the end of each move. */
  elapsed: Float64Array;
  /** First move of every layer, and one more entry for the end. */
  layerStart: Int32Array;
  /** Height of every layer's top in mm. */
  tops: Float32Array;
}

/**
 * First move of every layer, and one more entry for the end. A layer without moves, such as a tip
 * too thin for any bead, begins and ends where the next one begins.
 */
export function startsOf(layer: Int32Array, layers: number): Int32Array {
  const starts = new Int32Array(layers + 1).fill(layer.length);
  for (let k = layer.length - 1; k >= 0; k--) {
    const n = layer[k] ?? -1;
    if (n >= 0 && n < layers) starts[n] = k;
  }
  for (let n = layers - 1; n >= 0; n--) {
    starts[n] = Math.min(starts[n] ?? 0, starts[n + 1] ?? 0);
  }
  return starts;
}

/** Tops of the layers as far as moves tell, for move tables that do not state them. */
export function topsOf(layer: Int32Array, z: Float32Array): Float32Array {
  const tops = new Float32Array((layer.at(-1) ?? -1) + 1);
  for (let k = 0; k < layer.length; k++) {
    const n = layer[k] ?? -1;
    if (n >= 0) tops[n] = z[k] ?? 0;
  }
  return tops;
}

export function readToolpath(buffer: ArrayBuffer): Toolpath {
  const table = tableFromIPC(new Uint8Array(buffer));
  const column = (name: string) => {
    const found = table.getChild(name);
    if (!found) throw new Error(`the move table lacks the column ${name}`);
    return found.toArray() as Float32Array;
  };
  const layer = column("layer") as unknown as Int32Array;
  const seconds = column("seconds");
  const elapsed = new Float64Array(seconds.length);
  let total = 0;
  for (let k = 0; k < seconds.length; k++) elapsed[k] = total += seconds[k] ?? 0;
  const z = column("z");
  const stated = table.schema.metadata.get("tops");
  const tops = stated ? Float32Array.from(stated.split(","), Number) : topsOf(layer, z);
  const layerStart = startsOf(layer, tops.length);
  const features = (table.schema.metadata.get("features") ?? "").split(",") as Feature[];
  const feature = column("feature") as unknown as Uint8Array;
  const seen = new Array<boolean>(features.length).fill(false);
  for (let k = 0; k < feature.length; k++) seen[feature[k] as number] = true;
  return {
    count: layer.length,
    tops,
    features,
    present: new Set(features.filter((_, k) => seen[k])),
    layer,
    feature,
    x: column("x"),
    y: column("y"),
    z,
    width: column("width"),
    height: column("height"),
    cause: column("cause") as unknown as Int32Array,
    speed: column("speed"),
    flow: column("flow"),
    elapsed,
    layerStart,
  };
}

export function useToolpath(version: number | null) {
  return useMoves(version === null ? null : `/api/versions/${version}/moves`);
}

/**
 * The beads there are of a version while it is computed: another name when there are more; an empty
 * one when there are none.
 */
export function useLaid(version: number, name: string): Toolpath | undefined {
  const found = useQuery({
    queryKey: ["laid", version, name],
    queryFn: async () =>
      readToolpath(
        await binary(`/api/versions/${version}/laid?of=${encodeURIComponent(name)}`),
      ),
    enabled: name !== "",
    // more may have taken their place meanwhile
    retry: false,
    staleTime: Infinity,
    gcTime: 0,
    placeholderData: (before, query) => (query?.queryKey[1] === version ? before : undefined),
  });
  return name ? found.data : undefined;
}

/** The move table at an address; null asks for none yet. */
export function useMoves(address: string | null) {
  return useQuery({
    queryKey: ["toolpath", address],
    queryFn: async () => readToolpath(await binary(address ?? "")),
    enabled: address !== null,
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: (before) => before,
  });
}

/** Top of the highest layer that has a move, in mm. */
export function reachOf(path: Toolpath): number {
  return path.tops[path.layer.at(-1) ?? -1] ?? 0;
}

/** Index of the move that is being made at a time. */
export function moveAt(path: Toolpath, seconds: number): number {
  let low = 0;
  let high = path.count - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((path.elapsed[middle] ?? 0) < seconds) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Half-widths of the laid part along y for every layer, for the first lane. */
export function silhouette(path: Toolpath): { low: Float32Array; high: Float32Array } {
  const layers = path.layerStart.length - 1;
  const low = new Float32Array(layers).fill(Infinity);
  const high = new Float32Array(layers).fill(-Infinity);
  const footing = path.features.indexOf("footing");
  for (let k = 0; k < path.count; k++) {
    const n = path.layer[k] ?? -1;
    if (n < 0 || !(path.width[k] ?? 0) || path.feature[k] === footing) continue;
    const y = path.y[k] ?? 0;
    if (y < (low[n] ?? 0)) low[n] = y;
    if (y > (high[n] ?? 0)) high[n] = y;
  }
  return { low, high };
}
