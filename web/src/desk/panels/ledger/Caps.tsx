import type { Finding, Setting } from "../../../api/client";
import { withChanges } from "../../state/changes";
import { NumberField } from "../NumberField";
import { withValue } from "../../state/choice";
import type { Desk } from "../../state/useDesk";

const CAPS = [
  ["limits.time_min", "over-time"],
  ["limits.mass_g", "over-mass"],
  ["limits.cost", "over-cost"],
] as const;

/** What the plan may take at most. Over a cap, by how much, and what keeps to it in one press. */
export function Caps({
  desk,
  settings,
  findings,
}: {
  desk: Desk;
  settings: Setting[];
  findings: Finding[];
}) {
  const own = desk.choice.settings;
  const over = findings.filter((finding) => CAPS.some(([, code]) => code === finding.code));
  const take = (finding: Finding) =>
    desk.change(withChanges(desk.choice, finding.change, settings));
  return (
    <section aria-label="Caps" className="border-t border-hairline pt-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-[13px]">
        <h3 className="font-semibold">At most</h3>
        {CAPS.map(([name]) => settings.find((setting) => setting.name === name))
          .filter((setting) => setting !== undefined)
          .map((setting) => (
            <span key={setting.name} title={setting.help}>
              <NumberField
                label={setting.label}
                unit={setting.unit}
                value={(own.limits?.[setting.key] as number | undefined) ?? null}
                min={setting.min}
                max={setting.max}
                placeholder="none"
                width="w-16"
                onValue={(v) =>
                  desk.change({
                    ...desk.choice,
                    settings: withValue(own, "limits", setting.key, v, null),
                  })
                }
              />
            </span>
          ))}
      </div>
      {over.map((finding) => (
        <p key={finding.code} data-over={finding.code} className="mt-1 text-[13px] text-look">
          ▲ {finding.message} <span className="text-ink-2">{finding.help}</span>{" "}
          {Object.keys(finding.change).length > 0 && (
            <button className="quiet" onClick={() => take(finding)}>
              {finding.code === "over-mass" ? "Take the first" : "Take the best fit within it"}
            </button>
          )}
        </p>
      ))}
    </section>
  );
}
