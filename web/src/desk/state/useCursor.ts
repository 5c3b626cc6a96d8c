/**
 * The cursor: a height, or a moment while the print is played. One for stage and lanes. It is kept
 * as a height because the
 * layers may change under it, and the stage may still show the beads of the plan before.
 */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { moveAt, type Toolpath } from "./toolpath";

/**
 * Times as fast as the machine that a print can be played at; null: the whole in about
 * `PLAY_SECONDS`.
 */
export const RATES = [1, 5, 20, 100, null] as const;
export type Rate = (typeof RATES)[number];
const PLAY_SECONDS = 40;
/** Where the cursor stands at first: inside the part, so that walls and infill are seen at once. */
const START = 0.62;

export interface Cursor {
  /** The layer at the cursor, in the figures and in the beads on the stage. */
  layer: number;
  beadLayer: number;
  /** Last move shown; null: the layer is complete. */
  move: number | null;
  playing: boolean;
  rate: Rate;
  onRate: (rate: Rate) => void;
  go: (layer: number) => void;
  toggle: () => void;
}

/** The layer a height lies in. */
export function layerAtHeight(tops: ArrayLike<number>, z: number): number {
  let low = 0;
  let high = Math.max(0, tops.length - 1);
  while (low < high) {
    const middle = (low + high) >> 1;
    // 3 decimals are what the file says; single precision is coarser than comparing exactly would
    // need
    if ((tops[middle] ?? 0) < z - 1e-3) low = middle + 1;
    else high = middle;
  }
  return low;
}

export function useCursor(tops: number[], path: Toolpath | undefined): Cursor {
  const layers = tops.length;
  const [height, setHeight] = useState<number | null>(null);
  const [move, setMove] = useState<number | null>(null);
  const [playing, setPlaying] = useState(false);
  const [rate, setRate] = useState<Rate>(null);
  const clock = useRef(0);
  const z = height ?? START * (tops.at(-1) ?? 0);
  const layer = layerAtHeight(tops, z);
  const beadLayer = path ? layerAtHeight(path.tops, z) : layer;

  const go = useCallback(
    (next: number) => {
      setPlaying(false);
      setMove(null);
      setHeight(tops[Math.max(0, Math.min(layers - 1, Math.round(next)))] ?? 0);
    },
    [tops, layers],
  );

  const toggle = useCallback(() => {
    if (!path) return;
    if (!playing) {
      const begin =
        beadLayer >= path.tops.length - 1 && move === null
          ? 0
          : (move ?? path.layerStart[beadLayer] ?? 0);
      clock.current = path.elapsed[begin] ?? 0;
    }
    setPlaying(!playing);
  }, [path, playing, beadLayer, move]);

  useEffect(() => {
    if (!playing || !path) return;
    let frame = 0;
    let last = performance.now();
    const total = path.elapsed[path.count - 1] ?? 0;
    const heating = path.elapsed[0] ?? 0;
    if (clock.current < heating) clock.current = heating;
    const tick = (now: number) => {
      clock.current += ((now - last) / 1000) * (rate ?? (total - heating) / PLAY_SECONDS);
      last = now;
      if (clock.current >= total) {
        setPlaying(false);
        setMove(null);
        setHeight(path.tops.at(-1) ?? 0);
        return;
      }
      const k = moveAt(path, clock.current);
      setMove(k);
      setHeight(path.tops[Math.max(0, path.layer[k] ?? 0)] ?? 0);
      frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [playing, path, rate]);

  return useMemo(
    () => ({ layer, beadLayer, move, playing, rate, onRate: setRate, go, toggle }),
    [layer, beadLayer, move, playing, rate, go, toggle],
  );
}
