import type { Schemas } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";
import { signedMm } from "../format";

type Measure = Schemas["Measure"];

/** Dimensions of the finished part: what they should be and what was measured. */
export function Measures({
  measures,
  onMeasures,
}: {
  measures: Measure[];
  onMeasures: (measures: Measure[]) => void;
}) {
  const set = (k: number, change: Partial<Measure>) =>
    onMeasures(measures.map((one, n) => (n === k ? { ...one, ...change } : one)));
  return (
    <div className="flex flex-col gap-1">
      {measures.map((one, k) => (
        <div key={k} className="flex flex-wrap items-center gap-2">
          <input
            className="field w-40"
            aria-label={`Measure ${k + 1}`}
            placeholder="what, such as bore"
            maxLength={60}
            value={one.name}
            onChange={(event) => set(k, { name: event.target.value })}
          />
          should be{" "}
          <NumberField
            label={`Measure ${k + 1} should be`}
            unit="mm"
            value={one.nominal_mm}
            min={0}
            max={5000}
            width="w-20"
            onValue={(v) => set(k, { nominal_mm: v ?? 0 })}
          />
          is{" "}
          <NumberField
            label={`Measure ${k + 1} is`}
            unit="mm"
            value={one.measured_mm}
            min={0}
            max={5000}
            width="w-20"
            onValue={(v) => set(k, { measured_mm: v ?? 0 })}
          />
          <span className="w-20">{signedMm(one.measured_mm - one.nominal_mm)}</span>
          <button
            type="button"
            className="quiet"
            aria-label={`Remove measure ${k + 1}`}
            onClick={() => onMeasures(measures.filter((_, n) => n !== k))}
          >
            remove
          </button>
        </div>
      ))}
      <button
        type="button"
        className="quiet self-start"
        onClick={() => onMeasures([...measures, { name: "", nominal_mm: 0, measured_mm: 0 }])}
      >
        + measure
      </button>
    </div>
  );
}
