import { Pause, Play } from "lucide-react";

import { NumberField } from "../panels/NumberField";
import type { Toolpath } from "../state/toolpath";
import { type Cursor, layerAtHeight, RATES } from "../state/useCursor";

/** The cursor typed: as a height or as a layer number; and the print played from it. */
export function CursorBar({
  cursor,
  tops,
  path,
}: {
  cursor: Cursor;
  tops: number[];
  path: Toolpath | undefined;
}) {
  const layer = Math.min(cursor.layer, tops.length - 1);
  const top = tops.at(-1) ?? 0;
  const byHeight = (z: number | null) => {
    if (z !== null) cursor.go(layerAtHeight(tops, z));
  };
  return (
    <div className="flex items-center gap-2">
      <button
        className="quiet"
        onClick={cursor.toggle}
        disabled={!path}
        aria-label={cursor.playing ? "Pause" : "Play the print"}
        title="Space on the lanes"
      >
        {cursor.playing ? <Pause size={14} aria-hidden /> : <Play size={14} aria-hidden />}
      </button>
      <select
        className="field"
        aria-label="Play at"
        value={String(cursor.rate)}
        onChange={(event) =>
          cursor.onRate(RATES.find((rate) => String(rate) === event.target.value) ?? null)
        }
      >
        {RATES.map((rate) => (
          <option key={String(rate)} value={String(rate)}>
            {rate === null ? "whole in 40 s" : `${rate} ×`}
          </option>
        ))}
      </select>
      <NumberField
        label="Cursor height"
        unit="mm"
        value={Number((tops[layer] ?? 0).toFixed(3))}
        min={0}
        max={top}
        width="w-16"
        onValue={byHeight}
        step={0.2}
      />
      <span className="text-[13px] text-ink-2">layer</span>
      <NumberField
        label="Cursor layer"
        unit={`of ${tops.length}`}
        value={layer + 1}
        min={1}
        max={tops.length}
        step={1}
        width="w-14"
        onValue={(n) => n && cursor.go(n - 1)}
      />
    </div>
  );
}
