import { clsx } from "clsx";
import type { Setting } from "../api/client";
import { plain } from "../format";
import { ValueEditor } from "../desk/panels/SettingRow";
import { Points } from "./Points";

type Values = Record<string, unknown>;

/** What a setting is for, with what is allowed. */
function helpOf(setting: Setting): string {
  if (setting.min === null || setting.max === null) return setting.help;
  const bounds = `${plain(setting.min)} to ${plain(setting.max)}`;
  return `${setting.help} ${bounds} ${setting.unit}`;
}

/**
 * Figures of a machine or a material as fields with unit and bounds, in groups; each is kept when
 * its field is left.
 */
export function Figures({
  groups,
  settings,
  figures,
  onChange,
}: {
  groups: readonly (readonly [string, readonly string[]])[];
  settings: Setting[];
  figures: Values;
  /** What is changed and nothing else; `null` is as the default says. */
  onChange: (changes: Values) => void;
}) {
  const set = (setting: Setting, value: unknown) => {
    const same = JSON.stringify(value) === JSON.stringify(setting.default);
    onChange({ [setting.key]: same ? null : value });
  };
  return (
    <div className="grid grid-cols-[repeat(auto-fit,minmax(300px,1fr))] gap-x-8 gap-y-3">
      {groups.map(([title, keys]) => (
        <fieldset key={title} className="min-w-0">
          <legend className="mb-1 font-semibold">{title}</legend>
          {keys
            .map((key) => settings.find((setting) => setting.key === key))
            .filter((setting) => setting !== undefined)
            .map((setting) => {
              const own = (figures[setting.key] ?? null) !== null;
              const value = own ? figures[setting.key] : setting.default;
              const id = `figure-${setting.name}`;
              return (
                <div
                  key={setting.name}
                  data-figure-row={setting.name}
                  className={clsx(
                    "border-b border-hairline py-1",
                    setting.multiline || setting.type === "list"
                      ? ""
                      : "flex items-center justify-between gap-2",
                  )}
                  title={helpOf(setting)}
                >
                  <label htmlFor={id} className="text-[13px]">
                    {setting.label}
                    {own && (
                      <span className="text-fjord" title="differs from the plain default">
                        {" "}
                        ◆
                      </span>
                    )}
                  </label>
                  {setting.type === "list" ? (
                    <Points
                      setting={setting}
                      value={(value ?? []) as Record<string, number | string>[]}
                      onValue={(next) => set(setting, next)}
                    />
                  ) : (
                    <ValueEditor
                      setting={setting}
                      id={id}
                      value={value}
                      inherited={setting.default ?? "open"}
                      onValue={(next) => set(setting, next)}
                    />
                  )}
                </div>
              );
            })}
        </fieldset>
      ))}
    </div>
  );
}
