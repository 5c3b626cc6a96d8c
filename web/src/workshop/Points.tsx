import type { Setting } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";

type Entry = Record<string, number | string>;

interface Column {
  key: string;
  label: string;
  /** "" for a text */
  unit: string;
  fresh: number | string;
  range?: readonly [number, number];
  step?: number;
}

const far = [-5000, 5000] as const;
const reach = [-500, 500] as const;
const pace = (key: string, label: string, most = 1000, unit = "mm/s"): Column => ({
  key,
  label,
  unit,
  fresh: 0,
  range: [0, most],
  step: most > 1000 ? 50 : 5,
});
/** One end of the dial: 0 leaves a value to the limits. */
const END = {
  word: "set for a machine",
  columns: [
    { key: "machine", label: "machine (empty: any)", unit: "", fresh: "" },
    pace("outer_wall_speed", "outer wall"),
    pace("inner_wall_speed", "inner walls"),
    pace("solid_speed", "solid"),
    pace("top_speed", "top"),
    pace("infill_speed", "infill"),
    pace("gap_speed", "thin beads"),
    pace("bridge_speed", "bridges"),
    pace("support_speed", "supports"),
    pace("acceleration", "accel.", 50000, "mm/s²"),
    pace("outer_wall_acceleration", "outer wall accel.", 50000, "mm/s²"),
  ],
};
const mm = (
  key: string,
  label: string,
  fresh: number,
  range: Column["range"] = far,
): Column => ({
  key,
  label,
  unit: "mm",
  fresh,
  range,
  step: 1,
});
const name = (fresh: string): Column => ({ key: "name", label: "name", unit: "", fresh });

/** What an entry of a list is made of, and what one is called, by the setting. */
const KINDS: Record<string, { word: string; columns: Column[] }> = {
  precise: END,
  quick: END,
  flow_points: {
    word: "temperature",
    columns: [
      { key: "temp", label: "at", unit: "°C", fresh: 230, range: [0, 500], step: 5 },
      { key: "flow", label: "melts", unit: "mm³/s", fresh: 11, range: [0.1, 500], step: 1 },
    ],
  },
  fan_stages: {
    word: "stage",
    columns: [
      mm("above_mm", "from", 1, [0, 5000]),
      { key: "fan", label: "fan", unit: "%", fresh: 100, range: [0, 100], step: 5 },
    ],
  },
  head: {
    word: "outline",
    columns: [
      name("Nozzle block"),
      mm("left", "left", 12, reach),
      mm("right", "right", 12, reach),
      mm("front", "front", 12, reach),
      mm("back", "back", 12, reach),
      mm("height", "from height", 3, [0, 500]),
    ],
  },
  keep_out: {
    word: "place",
    columns: [
      name("Clip"),
      mm("x", "x", 0),
      mm("y", "y", 0),
      mm("size_x", "wide", 20, [0.1, 5000]),
      mm("size_y", "deep", 20, [0.1, 5000]),
    ],
  },
  bed_points: { word: "corner", columns: [mm("0", "x", 0), mm("1", "y", 0)] },
};
/** Lists whose entries are kept as bare pairs. */
const PAIRS = new Set(["bed_points"]);

/** A short list of entries, each of a few numbers, some with a name. */
export function Points({
  setting,
  value,
  onValue,
}: {
  setting: Setting;
  value: readonly (Entry | readonly number[])[];
  onValue: (value: readonly (Entry | readonly number[])[]) => void;
}) {
  const kind = KINDS[setting.key];
  if (!kind) return null;
  const entries = value.map((entry): Entry => Object.fromEntries(Object.entries(entry)));
  const keep = (next: Entry[]) =>
    onValue(
      PAIRS.has(setting.key)
        ? next.map((entry) => kind.columns.map(({ key }) => Number(entry[key])))
        : next,
    );
  const set = (k: number, key: string, changed: number | string | null) =>
    changed !== null &&
    keep(entries.map((entry, n) => (n === k ? { ...entry, [key]: changed } : entry)));
  const fresh = () => {
    const last = entries.at(-1);
    const added: Entry = {};
    kind.columns.forEach(({ key, fresh: plain }, n) => {
      const before = last?.[key] ?? plain;
      added[key] = n === 0 && last && typeof before === "number" ? before + 10 : before;
    });
    return added;
  };
  return (
    <div className="flex flex-col gap-1 py-1 text-[13px]">
      {entries.map((entry, k) => (
        <span key={k} className="flex flex-wrap items-center gap-x-2 gap-y-1">
          {kind.columns.map((column) => {
            const label = `${setting.label} ${k + 1}, ${column.label}`;
            const own = entry[column.key] ?? column.fresh;
            return column.unit === "" ? (
              <input
                key={column.key}
                className="field w-28"
                aria-label={label}
                defaultValue={own}
                onBlur={(event) => set(k, column.key, event.target.value)}
              />
            ) : (
              <span key={column.key} className="inline-flex items-center gap-1">
                {column.label}{" "}
                <NumberField
                  label={label}
                  unit={column.unit}
                  value={Number(own)}
                  min={column.range?.[0]}
                  max={column.range?.[1]}
                  step={column.step}
                  width="w-14"
                  onValue={(v) => set(k, column.key, v)}
                />
              </span>
            );
          })}
          <button
            type="button"
            className="quiet"
            aria-label={`Remove ${setting.label} ${k + 1}`}
            onClick={() => keep(entries.filter((_, n) => n !== k))}
          >
            remove
          </button>
        </span>
      ))}
      <button
        type="button"
        className="quiet self-start"
        onClick={() => keep([...entries, fresh()])}
      >
        + {kind.word}
      </button>
    </div>
  );
}
