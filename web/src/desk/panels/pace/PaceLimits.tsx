import type { Setting } from "../../../api/client";
import { NumberField } from "../NumberField";
import { withValue } from "../../state/choice";
import type { Desk } from "../../state/useDesk";

const SHOWN = [
  "pace.safe_flow",
  "pace.flow_share",
  "pace.outer_share",
  "pace.flow_step",
  "pace.calm_share",
];

/** Whether speeds are typed or follow from limits, and those limits. */
export function PaceLimits({
  desk,
  settings,
  derived,
}: {
  desk: Desk;
  settings: Setting[];
  derived: boolean;
}) {
  const own = desk.choice.settings;
  const set = (key: string, value: unknown, normal: unknown) =>
    desk.change({ ...desk.choice, settings: withValue(own, "pace", key, value, normal) });
  return (
    <div className="flex flex-col gap-2 border-y border-hairline py-1.5">
      <div className="flex flex-wrap items-center gap-2">
        <span className="flex" role="group" aria-label="Where speeds come from">
          <button
            className="quiet"
            aria-pressed={!derived}
            onClick={() => set("derived", false, false)}
          >
            typed
          </button>
          <button
            className="quiet"
            aria-pressed={derived}
            onClick={() => set("derived", true, false)}
          >
            from limits
          </button>
        </span>
        <span className="text-[12px] text-ink-2">
          {derived
            ? "Typing a speed keeps it by hand."
            : "From limits, speeds follow from flow and what the frame stands."}
        </span>
      </div>
      {derived && (
        <div className="grid grid-cols-2 gap-x-4 gap-y-1">
          {SHOWN.map((name) => settings.find((setting) => setting.name === name))
            .filter((setting) => setting !== undefined)
            .map((setting) => (
              <label
                key={setting.name}
                className="flex items-center justify-between gap-2 text-[13px]"
                title={setting.help}
              >
                {setting.label}
                <NumberField
                  label={setting.label}
                  unit={setting.unit}
                  value={Number(own.pace?.[setting.key] ?? setting.default)}
                  min={setting.min}
                  max={setting.max}
                  step={5}
                  width="w-14"
                  onValue={(v) => v !== null && set(setting.key, v, setting.default)}
                />
              </label>
            ))}
        </div>
      )}
    </div>
  );
}
