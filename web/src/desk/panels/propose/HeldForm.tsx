import { useState } from "react";

import type { Setting } from "../../../api/client";
import { NumberField } from "../NumberField";
import type { HeldAsk } from "./useSearch";

const FAMILIES = [
  ["heights", "layer heights"],
  ["walls", "bead widths and walls"],
  ["skins", "solid thickness"],
  ["solid", "solid lines"],
  ["infill", "infill"],
  ["pace", "speeds"],
  ["supports", "supports"],
  ["footing", "footing"],
  ["nozzle", "nozzle"],
  ["standing", "way up"],
] as const;
type Family = (typeof FAMILIES)[number][0];

/**
 * What stays while changes are looked for: how much may give, a cap on grams, and what may vary.
 */
export function HeldForm({
  settings,
  disabled,
  lighter,
  onSearch,
}: {
  settings: Setting[];
  disabled: boolean;
  /** Grams of a part of which one more would fit on the spool. */ lighter: number | null;
  onSearch: (held: HeldAsk) => void;
}) {
  const [give, setGive] = useState(5);
  const [p95, setP95] = useState<number | null>(null);
  const [mass, setMass] = useState<number | null>(null);
  const [off, setOff] = useState<readonly Family[]>([]);
  const [keep, setKeep] = useState<readonly string[]>([]);
  const choices = settings.filter(
    (setting) =>
      ["body", "pace", "surface", "supports", "footing"].includes(setting.group) &&
      setting.type !== "list" &&
      setting.moves.includes("time") &&
      !keep.includes(setting.name),
  );
  const label = (name: string) =>
    settings.find((setting) => setting.name === name)?.label ?? name;
  return (
    <form
      aria-label="What is held"
      className="flex flex-col gap-1.5 border-y border-hairline py-2 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        onSearch({
          give,
          p95_um: p95,
          mass_g: mass,
          keep: [...keep],
          families: off.length
            ? FAMILIES.map(([key]) => key).filter((key) => !off.includes(key))
            : [],
        });
      }}
    >
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <span title="walls, skins, surface and stiffness">
          hold within{" "}
          <NumberField
            label="Hold within"
            unit="%"
            value={give}
            min={0}
            max={50}
            step={1}
            width="w-12"
            onValue={(v) => setGive(v ?? 5)}
          />
        </span>
        <span>
          surface at most{" "}
          <NumberField
            label="Surface at most"
            unit="µm P95"
            value={p95}
            min={1}
            max={5000}
            step={5}
            width="w-14"
            placeholder="now"
            onValue={setP95}
          />
        </span>
        <span>
          mass at most{" "}
          <NumberField
            label="Mass at most"
            unit="g"
            value={mass}
            min={0.01}
            max={100000}
            step={1}
            width="w-14"
            placeholder="any"
            onValue={setMass}
          />
          {lighter !== null && (
            <button
              type="button"
              className="quiet ml-1"
              title="grams of a part of which one more fits on the spool"
              onClick={() => setMass(Number((Math.floor(1000 * lighter) / 1000).toFixed(3)))}
            >
              one more per spool
            </button>
          )}
        </span>
        <button className="action ml-auto" disabled={disabled}>
          Find changes
        </button>
      </div>
      <div
        className="flex flex-wrap items-center gap-x-2.5 gap-y-0.5"
        role="group"
        aria-label="What may vary"
      >
        {FAMILIES.map(([key, name]) => (
          <label key={key} className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-ink"
              checked={!off.includes(key)}
              onChange={(event) =>
                setOff(event.target.checked ? off.filter((one) => one !== key) : [...off, key])
              }
            />
            {name}
          </label>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        <select
          className="field"
          aria-label="Must not change"
          value=""
          onChange={(event) => event.target.value && setKeep([...keep, event.target.value])}
        >
          <option value="">must not change …</option>
          {choices.map((setting) => (
            <option key={setting.name} value={setting.name}>
              {setting.group_title}: {setting.label}
            </option>
          ))}
        </select>
        {keep.map((name) => (
          <button
            key={name}
            type="button"
            className="quiet"
            title="may change again"
            onClick={() => setKeep(keep.filter((one) => one !== name))}
          >
            {label(name)} ✕
          </button>
        ))}
      </div>
    </form>
  );
}
