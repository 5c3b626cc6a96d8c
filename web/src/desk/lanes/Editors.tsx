import { NumberField } from "../NumberField";
import type { Band, Pin } from "./rules";

interface Bounds {
  top: number;
  least: number;
  greatest: number;
}

/** A band in figures: its edges, and one height or a range of heights for the layers in it. */
export function BandEditor({ band, bounds, snapped, onBand, onRemove, onDone }: {
  band: Band; bounds: Bounds; snapped: string; onBand: (band: Band) => void; onRemove: () => void; onDone: () => void;
}) {
  const range = !band.height_mm;
  const field = { min: bounds.least, max: bounds.greatest, step: 0.01, width: "w-14", unit: "mm" };
  return (
    <div role="group" aria-label="Band" className="flex flex-wrap items-center gap-x-2 gap-y-1 text-[13px]">
      <input className="field w-24" aria-label="Band name" placeholder="name" maxLength={40} defaultValue={band.name} onBlur={(event) => event.target.value !== band.name && onBand({ ...band, name: event.target.value })} />
      <NumberField label="Band from" unit="mm" value={band.from_mm} min={0} max={bounds.top} step={0.1} width="w-16" onValue={(v) => v !== null && onBand({ ...band, from_mm: v })} />
      <NumberField label="Band to" unit="mm" value={band.to_mm} min={0} max={bounds.top} step={0.1} width="w-16" onValue={(v) => v !== null && onBand({ ...band, to_mm: v })} />
      {snapped && <span className="text-fjord">{snapped}</span>}
      <span className="flex" role="group" aria-label="Heights in the band">
        <button className="quiet" aria-pressed={!range} onClick={() => onBand({ ...band, height_mm: band.greatest_mm ?? bounds.greatest, least_mm: null, greatest_mm: null })}>one height</button>
        <button className="quiet" aria-pressed={range} onClick={() => onBand({ ...band, height_mm: null, least_mm: bounds.least, greatest_mm: band.height_mm ?? bounds.greatest })}>a range</button>
      </span>
      {range ? (
        <>
          <NumberField label="Band not below" value={band.least_mm ?? null} placeholder="any" {...field} onValue={(v) => onBand({ ...band, least_mm: v })} />
          <NumberField label="Band not above" value={band.greatest_mm ?? null} placeholder="any" {...field} onValue={(v) => onBand({ ...band, greatest_mm: v })} />
        </>
      ) : <NumberField label="Band layer height" value={band.height_mm ?? null} {...field} onValue={(v) => v && onBand({ ...band, height_mm: v })} />}
      <button className="quiet" onClick={onRemove}>Remove band</button>
      <button className="quiet" onClick={onDone}>Done</button>
    </div>
  );
}

/** A pin in figures. */
export function PinEditor({ pin, bounds, onPin, onRemove, onDone }: { pin: Pin; bounds: Bounds; onPin: (pin: Pin) => void; onRemove: () => void; onDone: () => void }) {
  return (
    <div role="group" aria-label="Pin" className="flex flex-wrap items-center gap-2 text-[13px]">
      the layer at <NumberField label="Pin at" unit="mm" value={pin.z_mm} min={0} max={bounds.top} step={0.1} width="w-16" onValue={(v) => v !== null && onPin({ ...pin, z_mm: v })} />
      is <NumberField label="Pinned height" unit="mm tall" value={pin.height_mm} min={bounds.least} max={bounds.greatest} step={0.01} width="w-14" onValue={(v) => v && onPin({ ...pin, height_mm: v })} />
      <button className="quiet" onClick={onRemove}>Remove pin</button>
      <button className="quiet" onClick={onDone}>Done</button>
    </div>
  );
}
