import type { Setting } from "../../api/client";
import { plain } from "../../format";
import { NumberField } from "../panels/NumberField";
import { type Band, bandAt, withChange } from "../panels/places/places";
import { withValue } from "../state/choice";
import type { Desk } from "../state/useDesk";
import type { SettingLane } from "./settingLanes";

/**
 * A lane's setting in figures: for the whole part, and for the band at the cursor, which is made
 * where there is none.
 */
export function LaneEditor({
  lane,
  desk,
  settings,
  bands,
  z,
  inherited,
  shown,
  onBand,
  onAdd,
  onShown,
  onDone,
}: {
  lane: SettingLane;
  desk: Desk;
  settings: Setting[];
  bands: Band[];
  z: number;
  inherited: number | null;
  shown: boolean;
  onBand: (n: number, band: Band) => void;
  onAdd: (changes: Record<string, unknown>) => void;
  onShown: () => void;
  onDone: () => void;
}) {
  const setting = settings.find((entry) => entry.name === lane.setting);
  if (!setting) return null;
  const own = desk.choice.settings[setting.group]?.[setting.key];
  const whole =
    typeof own === "number"
      ? own
      : typeof setting.default === "number"
        ? setting.default
        : null;
  const n = bandAt(bands, z);
  const band = bands[n];
  const here = band?.changes?.[lane.setting];
  const field = {
    unit: setting.unit,
    min: setting.min,
    max: setting.max,
    step: setting.type === "integer" ? 1 : undefined,
    width: "w-16",
  };
  const exact = (v: number) => (setting.type === "integer" ? Math.round(v) : v);
  return (
    <div
      role="group"
      aria-label={`Edit ${lane.edits}`}
      className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[13px]"
    >
      <b>{lane.edits}</b>
      {setting.group === "material" ? (
        <span className="text-ink-2">
          of the material {inherited !== null && `${plain(inherited)} ${setting.unit}`}
        </span>
      ) : (
        <span>
          whole part{" "}
          <NumberField
            label={`${lane.edits}, whole part`}
            {...field}
            value={whole}
            placeholder={inherited === null ? "" : plain(inherited)}
            onValue={(v) =>
              desk.change({
                ...desk.choice,
                settings: withValue(
                  desk.choice.settings,
                  setting.group,
                  setting.key,
                  v === null ? setting.default : exact(v),
                  setting.default,
                ),
              })
            }
          />
        </span>
      )}
      {band ? (
        <span>
          in {band.name || "the band"} {band.from_mm.toFixed(2)} → {band.to_mm.toFixed(2)} mm{" "}
          <NumberField
            label={`${lane.edits}, in this band`}
            {...field}
            value={typeof here === "number" ? here : null}
            placeholder="as elsewhere"
            onValue={(v) =>
              onBand(n, withChange(band, lane.setting, v === null ? undefined : exact(v)))
            }
          />
          {here !== undefined && (
            <button
              className="quiet ml-1"
              onClick={() => onBand(n, withChange(band, lane.setting, undefined))}
            >
              as elsewhere
            </button>
          )}
        </span>
      ) : (
        <span>
          4 mm around {z.toFixed(2)} mm{" "}
          <NumberField
            label={`${lane.edits}, in a new band here`}
            {...field}
            value={null}
            placeholder="as elsewhere"
            onValue={(v) => v !== null && onAdd({ [lane.setting]: exact(v) })}
          />
        </span>
      )}
      <button className="quiet" aria-pressed={shown} onClick={onShown}>
        {shown ? "drawn as a lane" : "draw as a lane"}
      </button>
      <button className="quiet" onClick={onDone}>
        Done
      </button>
    </div>
  );
}
