import type { Setting } from "../../../api/client";
import { NumberField } from "../NumberField";
import { ChangeList } from "./ChangeList";
import { ON_FACE, type Region, SHAPES } from "./places";

const SAYS = {
  attention: [
    ["", "as elsewhere"],
    ["seen", "seen: counts more"],
    ["ordinary", "ordinary"],
    ["hidden", "hidden: does not count"],
  ],
  seam: [
    ["", "as elsewhere"],
    ["attract", "seams here"],
    ["clear", "kept clear"],
  ],
  support: [
    ["", "as elsewhere"],
    ["ask", "asked for"],
    ["forbid", "forbidden"],
  ],
} as const;

/** Shapes that are drawn or picked elsewhere, and stay what they are. */
const FIXED = ["outline", "body"];

/**
 * A region in figures, with everything it changes. Measures are the file's, so that it moves and
 * scales with the part.
 */
export function RegionForm({
  region,
  settings,
  base,
  message,
  onRegion,
  onUp,
  onDown,
  onRemove,
}: {
  region: Region;
  settings: Setting[];
  base: (setting: Setting) => unknown;
  message: string;
  onRegion: (region: Region) => void;
  onUp: (() => void) | null;
  onDown: (() => void) | null;
  onRemove: () => void;
}) {
  const face = ON_FACE.includes(region.shape);
  const size = (key: "size_x" | "size_y" | "size_z", label: string) => (
    <NumberField
      label={label}
      unit="mm"
      value={region[key] ?? 10}
      min={0.01}
      max={5000}
      step={1}
      width="w-14"
      onValue={(v) => v && onRegion({ ...region, [key]: v })}
    />
  );
  return (
    <div
      role="group"
      aria-label="Region settings"
      className="flex flex-col gap-2 border-l-2 border-fjord py-1 pl-2"
    >
      <p className="flex flex-wrap items-center gap-2">
        <input
          className="field w-28"
          aria-label="Name of the region"
          placeholder="name"
          maxLength={40}
          defaultValue={region.name}
          key={region.name}
          onBlur={(event) =>
            event.target.value !== region.name &&
            onRegion({ ...region, name: event.target.value })
          }
        />
        <select
          className="field"
          aria-label="Shape of the region"
          value={region.shape}
          onChange={(event) =>
            onRegion({
              ...region,
              shape: event.target.value as Region["shape"],
              reach:
                region.reach ||
                (event.target.value === "under" || event.target.value === "over" ? 0 : 5),
            })
          }
        >
          {Object.entries(SHAPES)
            .filter(([key]) => !FIXED.includes(key) || region.shape === key)
            .map(([key, word]) => (
              <option key={key} value={key}>
                {word}
              </option>
            ))}
        </select>
        {region.shape === "body" && <b>{region.body}</b>}
        {(region.shape === "under" || region.shape === "over") && (
          <NumberField
            label={region.shape === "under" ? "Depth" : "Height"}
            unit={region.shape === "under" ? "mm deep, 0 to the bed" : "mm high, 0 to the top"}
            value={region.reach ?? 0}
            min={0}
            max={5000}
            step={1}
            width="w-14"
            onValue={(v) => v !== null && onRegion({ ...region, reach: v })}
          />
        )}
        {region.shape === "near" && (
          <NumberField
            label="Distance"
            unit="mm around"
            value={region.reach ?? 1}
            min={0.1}
            max={5000}
            step={0.5}
            width="w-14"
            onValue={(v) => v && onRegion({ ...region, reach: v })}
          />
        )}
        {(region.shape === "cylinder" || region.shape === "ball") && (
          <NumberField
            label="Radius"
            unit="mm radius"
            value={region.reach ?? 5}
            min={0.01}
            max={5000}
            step={1}
            width="w-14"
            onValue={(v) => v && onRegion({ ...region, reach: v })}
          />
        )}
        {face && (
          <NumberField
            label="Spread"
            unit="° over edges"
            value={region.spread ?? 20}
            min={0}
            max={180}
            step={5}
            width="w-12"
            onValue={(v) => v !== null && onRegion({ ...region, spread: v })}
          />
        )}
      </p>
      {!face && region.shape !== "body" && (
        <p className="flex flex-wrap items-center gap-2">
          {region.shape === "box" && (
            <>
              {size("size_x", "Size along x")} × {size("size_y", "Size along y")} ×
            </>
          )}
          {region.shape !== "ball" && (
            <>
              {size(
                "size_z",
                region.shape === "outline" ? "Thickness" : "Height of the solid",
              )}{" "}
              {region.shape === "box" ? "" : "tall"}
            </>
          )}
          {region.shape !== "outline" && (
            <>
              {" "}
              at{" "}
              {(["x", "y", "z"] as const).map((axis) => (
                <NumberField
                  key={axis}
                  label={`Middle ${axis}`}
                  unit={axis === "z" ? "mm" : ""}
                  value={region[axis]}
                  step={1}
                  width="w-16"
                  onValue={(v) => v !== null && onRegion({ ...region, [axis]: v })}
                />
              ))}
            </>
          )}
          {region.shape === "outline" && (
            <span className="text-ink-2">{region.points?.length ?? 0} corners</span>
          )}
        </p>
      )}
      {message && (
        <p role="alert" className="text-stop">
          {message}
        </p>
      )}
      <ChangeList
        settings={settings}
        within="region"
        changes={region.changes ?? {}}
        base={base}
        onChanges={(changes) => onRegion({ ...region, changes })}
      />
      <p className="flex flex-wrap items-center gap-2">
        {(Object.keys(SAYS) as (keyof typeof SAYS)[]).map((key) => (
          <label key={key} className="inline-flex items-center gap-1">
            {key}
            <select
              className="field"
              aria-label={`${key} in the region`}
              value={region[key] ?? ""}
              onChange={(event) => onRegion({ ...region, [key]: event.target.value as never })}
            >
              {SAYS[key].map(([value, word]) => (
                <option key={value} value={value}>
                  {word}
                </option>
              ))}
            </select>
          </label>
        ))}
      </p>
      <p className="flex gap-2">
        {onUp && (
          <button className="quiet" onClick={onUp}>
            earlier in the list
          </button>
        )}
        {onDown && (
          <button
            className="quiet"
            title="The later of two that overlap has the last word"
            onClick={onDown}
          >
            later, has the last word
          </button>
        )}
        <button className="quiet" onClick={onRemove}>
          Remove this region
        </button>
      </p>
    </div>
  );
}
