import type { Setting } from "../../../api/client";
import { NumberField } from "../NumberField";
import { Dial } from "./Dial";
import { withValue } from "../../state/choice";
import type { Desk } from "../../state/useDesk";

const SHOWN = [
  "pace.safe_flow",
  "pace.flow_share",
  "pace.outer_share",
  "pace.flow_step",
  "pace.calm_share",
];

export type PaceMode = "typed" | "limits" | "dial";

const WORDS: Record<PaceMode, string> = {
  typed: "Every speed as it is typed.",
  limits: "Speeds follow from flow and what the frame stands. Typing one keeps it by hand.",
  dial: "Between two sets of this material on this machine. Typing a speed keeps it by hand.",
};

/** Whether speeds are typed or follow from limits, and those limits. */
export function PaceLimits({
  desk,
  settings,
  mode,
}: {
  desk: Desk;
  settings: Setting[];
  mode: PaceMode;
}) {
  const own = desk.choice.settings;
  const set = (key: string, value: unknown, normal: unknown) =>
    desk.change({ ...desk.choice, settings: withValue(own, "pace", key, value, normal) });
  const take = (next: PaceMode) =>
    desk.change({
      ...desk.choice,
      settings: withValue(
        withValue(own, "pace", "derived", next === "limits", false),
        "pace",
        "dial",
        next === "dial" ? 50 : null,
        null,
      ),
    });
  return (
    <div className="flex flex-col gap-2 border-y border-hairline py-1.5">
      <div className="flex flex-wrap items-center gap-2">
        <span className="flex" role="group" aria-label="Where speeds come from">
          <button
            className="quiet"
            aria-pressed={mode === "typed"}
            onClick={() => take("typed")}
          >
            typed
          </button>
          <button
            className="quiet"
            aria-pressed={mode === "limits"}
            onClick={() => take("limits")}
          >
            from limits
          </button>
          <button
            className="quiet"
            aria-pressed={mode === "dial"}
            onClick={() => take("dial")}
          >
            one dial
          </button>
        </span>
        <span className="text-[12px] text-ink-2">{WORDS[mode]}</span>
      </div>
      {mode === "dial" && <Dial />}
      {mode === "limits" && (
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
