import { NumberField } from "../desk/panels/NumberField";
import type { BedRoom } from "./useBed";

const WAYS = [
  ["together", "together, in order of height"],
  ["in-turn", "in turn, one after the other"],
  ["groups", "in groups, one after the other"],
] as const;

/** How the bed is laid: way, clearance, turns, loops, pauses. */
export function BedSettings({ here }: { here: BedRoom }) {
  const { spec } = here;
  if (!spec) return null;
  const number = (
    label: string,
    key: "clearance" | "turn_step" | "pause_seconds" | "centre_x" | "centre_y" | "times",
    unit: string,
    [min, max]: readonly [number, number],
    step: number,
    help: string,
  ) => (
    <label className="flex items-center justify-between gap-2" title={help}>
      <span>{label}</span>
      <NumberField
        label={label}
        unit={unit}
        value={spec[key] ?? 0}
        min={min}
        max={max}
        step={step}
        width="w-16"
        onValue={(v) => v !== null && here.set({ [key]: v })}
      />
    </label>
  );
  const choice = (
    label: string,
    key: "way" | "loops" | "pauses" | "heights" | "measure",
    options: readonly (readonly [string, string])[],
  ) => (
    <label className="flex items-center justify-between gap-2">
      <span>{label}</span>
      <select
        className="field"
        aria-label={label}
        value={spec[key]}
        onChange={(event) => here.set({ [key]: event.target.value })}
      >
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <div className="flex flex-col gap-1.5 p-3 text-[13px]">
      {choice("Laid", "way", WAYS)}
      {choice("Layer heights", "heights", [
        ["own", "every plan its own"],
        ["one", "one stack for all"],
      ])}
      {spec.heights === "one" && (
        <>
          {choice("Measure", "measure", [
            ["mean", "mean"],
            ["p95", "P95"],
            ["max", "max"],
          ])}
          <label
            className="flex items-center justify-between gap-2"
            title="Left empty: as good over all parts together as with heights of their own."
          >
            <span>Surface target</span>
            <NumberField
              label="Surface target"
              unit="µm"
              value={spec.target_um ?? null}
              min={1}
              max={2000}
              step={5}
              width="w-16"
              placeholder="as own"
              onValue={(v) => here.set({ target_um: v })}
            />
          </label>
        </>
      )}
      {number("Wanted", "times", "times", [1, 500], 1, "How often this bed is wanted.")}
      {number(
        "Clearance",
        "clearance",
        "mm",
        [0.4, 200],
        0.5,
        "Open room between placings, their footing included.",
      )}
      {number(
        "Turns by",
        "turn_step",
        "°",
        [0, 180],
        15,
        "Step by which arranging turns placings. 0 leaves them as they are.",
      )}
      {number("Around x", "centre_x", "mm", [-5000, 5000], 5, "Arranged around this point.")}
      {number("Around y", "centre_y", "mm", [-5000, 5000], 5, "Arranged around this point.")}
      {choice("Priming loops", "loops", [
        ["shared", "one run around everything"],
        ["own", "each placing has its own"],
      ])}
      {choice("Pauses to take off", "pauses", [
        ["none", "none"],
        ["chosen", "after chosen placings"],
        ["each", "after each"],
      ])}
      {spec.pauses !== "none" &&
        number(
          "A pause takes",
          "pause_seconds",
          "s",
          [0, 86400],
          30,
          "How long a hand is likely to need.",
        )}
    </div>
  );
}
