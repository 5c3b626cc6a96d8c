import type { Setting } from "../../../api/client";
import { NumberField } from "../NumberField";
import { ValueEditor } from "../SettingRow";
import { type Changes, localSettings } from "./places";

/**
 * Settings that are changed in a band or region, each with its value there, and those that could
 * be.
 */
export function ChangeList({
  settings,
  within,
  changes,
  ramps,
  base,
  onChanges,
  onRamps,
}: {
  settings: Setting[];
  within: "band" | "region";
  changes: Changes;
  ramps?: Record<string, number>;
  base: (setting: Setting) => unknown;
  onChanges: (changes: Changes) => void;
  onRamps?: (ramps: Record<string, number>, changes: Changes) => void;
}) {
  const possible = localSettings(settings, within);
  const groups = [...new Map(possible.map((setting) => [setting.group, setting.group_title]))];
  const without = <T,>(list: Record<string, T>, name: string) =>
    Object.fromEntries(Object.entries(list).filter(([key]) => key !== name));
  return (
    <div className="flex flex-col gap-1">
      {Object.entries(changes).map(([name, value]) => {
        const setting = possible.find((entry) => entry.name === name);
        if (!setting) return null;
        const id = `${within}-${name}`;
        const end = ramps?.[name];
        const number = setting.type === "number" || setting.type === "integer";
        return (
          <div
            key={name}
            data-change={name}
            className="flex flex-wrap items-center gap-x-2 gap-y-1"
          >
            <label htmlFor={id} className="w-28" title={setting.help}>
              {setting.label}
            </label>
            <ValueEditor
              setting={setting}
              id={id}
              value={value}
              inherited={base(setting)}
              onValue={(next) => onChanges({ ...changes, [name]: next })}
            />
            {number &&
              onRamps &&
              ramps &&
              (end === undefined ? (
                <button
                  className="quiet"
                  title="Rise or fall evenly to another value at the upper edge"
                  onClick={() => onRamps({ ...ramps, [name]: Number(value) }, changes)}
                >
                  ramp …
                </button>
              ) : (
                <>
                  <NumberField
                    label={`${setting.label} at the upper edge`}
                    unit={`${setting.unit} at top`}
                    value={end}
                    min={setting.min}
                    max={setting.max}
                    width="w-14"
                    onValue={(v) => v !== null && onRamps({ ...ramps, [name]: v }, changes)}
                  />
                  <button
                    className="quiet"
                    onClick={() => onRamps(without(ramps, name), changes)}
                  >
                    no ramp
                  </button>
                </>
              ))}
            <button
              className="quiet ml-auto"
              title="as elsewhere"
              aria-label={`${setting.label} as elsewhere`}
              onClick={() =>
                onRamps && ramps
                  ? onRamps(without(ramps, name), without(changes, name))
                  : onChanges(without(changes, name))
              }
            >
              ×
            </button>
          </div>
        );
      })}
      <select
        className="field self-start"
        aria-label={`Change a setting in this ${within}`}
        value=""
        onChange={(event) => {
          const setting = possible.find((entry) => entry.name === event.target.value);
          if (setting)
            onChanges({ ...changes, [setting.name]: base(setting) ?? setting.default });
        }}
      >
        <option value="">+ a setting …</option>
        {groups.map(([group, title]) => (
          <optgroup key={group} label={title}>
            {possible
              .filter((entry) => entry.group === group && !(entry.name in changes))
              .map((entry) => (
                <option key={entry.name} value={entry.name}>
                  {entry.label}
                  {entry.unit && ` (${entry.unit})`}
                </option>
              ))}
          </optgroup>
        ))}
      </select>
    </div>
  );
}
