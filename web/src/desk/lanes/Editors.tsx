import { NumberField } from "../panels/NumberField";
import {
  type Band,
  edgeWords,
  heightField,
  type LayerHeights,
  withHeights,
} from "../panels/places/places";
import type { Pin } from "./rules";

interface Bounds {
  top: number;
  least: number;
  greatest: number;
}

/**
 * A band in figures: its edges, one height or a range of heights for its layers, and what else it
 * changes, which opens beside the stage.
 */
export function BandEditor({
  band,
  words,
  bounds,
  snapped,
  onBand,
  onSettings,
  onRemove,
  onDone,
}: {
  band: Band;
  words: string;
  bounds: Bounds;
  snapped: string;
  onBand: (band: Band) => void;
  onSettings: () => void;
  onRemove: () => void;
  onDone: () => void;
}) {
  const range = !band.height_mm && (band.least_mm != null || band.greatest_mm != null);
  const heights = (next: LayerHeights) => onBand(withHeights(band, next));
  const field = heightField(bounds);
  const edge = (which: "from" | "to") => {
    const tie = which === "from" ? band.from_edge : band.to_edge;
    return tie ? (
      <span className="text-fjord" title="Tied; its settings change that">
        {edgeWords(tie)}
      </span>
    ) : (
      <NumberField
        label={`Band ${which}`}
        unit="mm"
        value={band[`${which}_mm`]}
        min={0}
        max={bounds.top}
        step={0.1}
        width="w-16"
        onValue={(v) => v !== null && onBand({ ...band, [`${which}_mm`]: v })}
      />
    );
  };
  return (
    <div
      role="group"
      aria-label="Band"
      className="flex flex-wrap items-center gap-x-2 gap-y-1 text-[13px]"
    >
      <input
        className="field w-24"
        aria-label="Band name"
        placeholder="name"
        maxLength={40}
        defaultValue={band.name}
        onBlur={(event) =>
          event.target.value !== band.name && onBand({ ...band, name: event.target.value })
        }
      />
      {edge("from")} {edge("to")}
      {snapped && <span className="text-fjord">{snapped}</span>}
      <span className="flex" role="group" aria-label="Heights in the band">
        <button
          className="quiet"
          aria-pressed={!!band.height_mm}
          onClick={() =>
            heights(band.height_mm ? {} : { height_mm: band.greatest_mm ?? bounds.greatest })
          }
        >
          one height
        </button>
        <button
          className="quiet"
          aria-pressed={range}
          onClick={() =>
            heights(
              range
                ? {}
                : { least_mm: bounds.least, greatest_mm: band.height_mm ?? bounds.greatest },
            )
          }
        >
          a range
        </button>
      </span>
      {range && (
        <>
          <NumberField
            label="Band not below"
            value={band.least_mm ?? null}
            placeholder="any"
            {...field}
            onValue={(v) => onBand({ ...band, least_mm: v })}
          />
          <NumberField
            label="Band not above"
            value={band.greatest_mm ?? null}
            placeholder="any"
            {...field}
            onValue={(v) => onBand({ ...band, greatest_mm: v })}
          />
        </>
      )}
      {!!band.height_mm && (
        <NumberField
          label="Band layer height"
          value={band.height_mm}
          {...field}
          onValue={(v) => v && onBand({ ...band, height_mm: v })}
        />
      )}
      <button className="quiet" title={words} onClick={onSettings}>
        Settings …
      </button>
      <button className="quiet" onClick={onRemove}>
        Remove band
      </button>
      <button className="quiet" onClick={onDone}>
        Done
      </button>
    </div>
  );
}

/** A pin in figures. */
export function PinEditor({
  pin,
  bounds,
  onPin,
  onRemove,
  onDone,
}: {
  pin: Pin;
  bounds: Bounds;
  onPin: (pin: Pin) => void;
  onRemove: () => void;
  onDone: () => void;
}) {
  return (
    <div
      role="group"
      aria-label="Pin"
      className="flex flex-wrap items-center gap-2 text-[13px]"
    >
      the layer at{" "}
      <NumberField
        label="Pin at"
        unit="mm"
        value={pin.z_mm}
        min={0}
        max={bounds.top}
        step={0.1}
        width="w-16"
        onValue={(v) => v !== null && onPin({ ...pin, z_mm: v })}
      />
      is{" "}
      <NumberField
        label="Pinned height"
        unit="mm tall"
        value={pin.height_mm}
        min={bounds.least}
        max={bounds.greatest}
        step={0.01}
        width="w-14"
        onValue={(v) => v && onPin({ ...pin, height_mm: v })}
      />
      <button className="quiet" onClick={onRemove}>
        Remove pin
      </button>
      <button className="quiet" onClick={onDone}>
        Done
      </button>
    </div>
  );
}
