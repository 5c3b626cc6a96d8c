import type { Setting } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";

/** What the two numbers of a point are, by the setting that lists them. */
const KINDS: Record<
  string,
  {
    keys: [string, string];
    labels: [string, string];
    units: [string, string];
    fresh: [number, number];
  }
> = {
  flow_points: {
    keys: ["temp", "flow"],
    labels: ["at", "melts"],
    units: ["°C", "mm³/s"],
    fresh: [230, 11],
  },
  fan_stages: {
    keys: ["above_mm", "fan"],
    labels: ["from", "fan"],
    units: ["mm", "%"],
    fresh: [1, 100],
  },
};

/** A short list of points, each of two numbers. */
export function Points({
  setting,
  value,
  onValue,
}: {
  setting: Setting;
  value: Record<string, number>[];
  onValue: (value: Record<string, number>[]) => void;
}) {
  const kind = KINDS[setting.key];
  if (!kind) return null;
  const [a, b] = kind.keys;
  const set = (k: number, key: string, number: number | null) =>
    number !== null &&
    onValue(value.map((point, n) => (n === k ? { ...point, [key]: number } : point)));
  return (
    <div className="flex flex-col gap-1 py-1 text-[13px]">
      {value.map((point, k) => (
        <span key={k} className="flex flex-wrap items-center gap-2">
          {kind.labels[0]}{" "}
          <NumberField
            label={`${setting.label} ${k + 1}, ${kind.labels[0]}`}
            unit={kind.units[0]}
            value={point[a] ?? 0}
            min={0}
            max={5000}
            step={5}
            width="w-14"
            onValue={(v) => set(k, a, v)}
          />
          {kind.labels[1]}{" "}
          <NumberField
            label={`${setting.label} ${k + 1}, ${kind.labels[1]}`}
            unit={kind.units[1]}
            value={point[b] ?? 0}
            min={0}
            max={500}
            step={1}
            width="w-14"
            onValue={(v) => set(k, b, v)}
          />
          <button
            type="button"
            className="quiet"
            aria-label={`Remove ${setting.label} ${k + 1}`}
            onClick={() => onValue(value.filter((_, n) => n !== k))}
          >
            remove
          </button>
        </span>
      ))}
      <button
        type="button"
        className="quiet self-start"
        onClick={() =>
          onValue([
            ...value,
            {
              [a]: (value.at(-1)?.[a] ?? kind.fresh[0] - 10) + 10,
              [b]: value.at(-1)?.[b] ?? kind.fresh[1],
            },
          ])
        }
      >
        + {setting.key === "fan_stages" ? "stage" : "temperature"}
      </button>
    </div>
  );
}
