/** The cursor: a layer, or a moment inside it while the print is played. One for stage and lanes. */
import { useCallback, useEffect, useRef, useState } from "react";

import { moveAt, type Toolpath } from "./toolpath";

/** A whole print is played in about this many seconds at speed 1. */
const PLAY_SECONDS = 40;
/** Where the cursor stands at first: inside the part, so that walls and infill are seen at once. */
const START = 0.62;

export interface Cursor {
  layer: number;
  /** Last move shown; null: the layer is complete. */
  move: number | null;
  playing: boolean;
  go: (layer: number) => void;
  toggle: () => void;
}

export function useCursor(layers: number, path: Toolpath | undefined): Cursor {
  const [layer, setLayer] = useState<number | null>(null);
  const [move, setMove] = useState<number | null>(null);
  const [playing, setPlaying] = useState(false);
  const clock = useRef(0);
  const shown = Math.max(0, Math.min(layers - 1, layer ?? Math.floor(START * layers)));

  const go = useCallback((next: number) => {
    setPlaying(false);
    setMove(null);
    setLayer(Math.max(0, Math.min(layers - 1, Math.round(next))));
  }, [layers]);

  const toggle = useCallback(() => {
    if (!path) return;
    if (!playing) {
      const begin = shown >= layers - 1 && move === null ? 0 : (move ?? path.layerStart[shown] ?? 0);
      clock.current = path.elapsed[begin] ?? 0;
    }
    setPlaying(!playing);
  }, [path, playing, shown, layers, move]);

  useEffect(() => {
    if (!playing || !path) return;
    let frame = 0;
    let last = performance.now();
    const total = path.elapsed[path.count - 1] ?? 0;
    const heating = path.elapsed[0] ?? 0;
    if (clock.current < heating) clock.current = heating;
    const tick = (now: number) => {
      clock.current += ((now - last) / 1000) * ((total - heating) / PLAY_SECONDS);
      last = now;
      if (clock.current >= total) {
        setPlaying(false);
        setMove(null);
        setLayer(layers - 1);
        return;
      }
      const k = moveAt(path, clock.current);
      setMove(k);
      setLayer(Math.max(0, path.layer[k] ?? 0));
      frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [playing, path, layers]);

  return { layer: shown, move, playing, go, toggle };
}
