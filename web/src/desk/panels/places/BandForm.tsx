import { useState } from "react";

import { api, data, type Plan, type Schemas, type Setting } from "../../../api/client";
import { NumberField } from "../NumberField";
import { ChangeList } from "./ChangeList";
import { EdgeField, type Ties } from "./EdgeField";
import { type Band, heightField, type LayerHeights, withHeights } from "./places";

/**
 * A band with everything it changes: edges, layer heights, settings with their ramps. `placed` is
 * where its edges were found.
 */
export function BandForm({
  plan,
  band,
  placed,
  settings,
  base,
  bounds,
  ties,
  onBand,
  onRemove,
}: {
  plan: Plan;
  band: Band;
  placed: Band;
  settings: Setting[];
  base: (setting: Setting) => unknown;
  bounds: { top: number; least: number; greatest: number };
  ties: Ties;
  onBand: (band: Band) => void;
  onRemove: () => void;
}) {
  const mode = band.height_mm ? "one" : band.least_mm || band.greatest_mm ? "range" : "same";
  const field = heightField(bounds);
  const heights = (next: LayerHeights) => onBand(withHeights(band, next));
  return (
    <div
      role="group"
      aria-label="Band settings"
      className="flex flex-col gap-2 border-l-2 border-fjord py-1 pl-2"
    >
      <input
        className="field w-40"
        aria-label="Name of the band"
        placeholder="name"
        maxLength={40}
        defaultValue={band.name}
        key={band.name}
        onBlur={(event) =>
          event.target.value !== band.name && onBand({ ...band, name: event.target.value })
        }
      />
      <div className="grid grid-cols-[2.5rem_1fr] items-center gap-1">
        <span>from</span>
        <EdgeField
          label="From"
          mm={placed.from_mm}
          edge={band.from_edge ?? null}
          top={bounds.top}
          ties={ties}
          onMm={(v) => onBand({ ...band, from_mm: v })}
          onEdge={(edge) => onBand({ ...band, from_mm: placed.from_mm, from_edge: edge })}
        />
        <span>to</span>
        <EdgeField
          label="To"
          mm={placed.to_mm}
          edge={band.to_edge ?? null}
          top={bounds.top}
          ties={ties}
          onMm={(v) => onBand({ ...band, to_mm: v })}
          onEdge={(edge) => onBand({ ...band, to_mm: placed.to_mm, to_edge: edge })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <label className="w-28" htmlFor="band-heights">
          Layer heights
        </label>
        <select
          id="band-heights"
          className="field"
          value={mode}
          onChange={(event) =>
            heights(
              event.target.value === "one"
                ? { height_mm: band.greatest_mm ?? bounds.greatest }
                : event.target.value === "range"
                  ? { least_mm: bounds.least, greatest_mm: band.height_mm ?? bounds.greatest }
                  : {},
            )
          }
        >
          <option value="same">as elsewhere</option>
          <option value="one">one height</option>
          <option value="range">a range</option>
        </select>
        {mode === "one" && (
          <NumberField
            label="Layer height in the band"
            value={band.height_mm ?? null}
            {...field}
            onValue={(v) => v && heights({ height_mm: v })}
          />
        )}
        {mode === "range" && (
          <>
            <NumberField
              label="Heights not below"
              value={band.least_mm ?? null}
              placeholder="any"
              {...field}
              onValue={(v) => heights({ least_mm: v, greatest_mm: band.greatest_mm ?? null })}
            />
            <NumberField
              label="Heights not above"
              value={band.greatest_mm ?? null}
              placeholder="any"
              {...field}
              onValue={(v) => heights({ least_mm: band.least_mm ?? null, greatest_mm: v })}
            />
          </>
        )}
      </div>
      <label
        className="flex items-center gap-2 text-[13px]"
        title="Best fit: no step taller than this in the band, whatever is asked for elsewhere"
      >
        nothing above
        <NumberField
          label="Nothing above in the band"
          unit="µm"
          placeholder="any"
          value={band.worst_um ?? null}
          min={1}
          max={5000}
          step={5}
          width="w-14"
          onValue={(v) => onBand({ ...band, worst_um: v })}
        />
      </label>
      <ChangeList
        settings={settings}
        within="band"
        changes={band.changes ?? {}}
        ramps={band.ramps ?? {}}
        base={base}
        onChanges={(changes) => onBand({ ...band, changes })}
        onRamps={(ramps, changes) => onBand({ ...band, ramps, changes })}
      />
      {settings
        .filter(
          (entry) =>
            ofTheMaterial(entry) &&
            typeof band.changes?.[entry.name] === "number" &&
            band.ramps?.[entry.name] === undefined,
        )
        .map((entry) => (
          <WriteBack
            key={entry.name}
            plan={plan}
            value={Number(band.changes?.[entry.name])}
            setting={entry}
          />
        ))}
      <button className="quiet self-start" onClick={onRemove}>
        Remove this band
      </button>
    </div>
  );
}

/**
 * What the material supplies: of these a test can find the best value, which then belongs to the
 * material or the spool.
 */
const ofTheMaterial = (setting: Setting) =>
  setting.source === "material" || setting.group === "material";

/** Keep the value a test showed to be best with the material or the spool. */
function WriteBack({ plan, value, setting }: { plan: Plan; value: number; setting: Setting }) {
  const [said, setSaid] = useState("");
  const keep = async (to: "material" | "spool") => {
    try {
      await data(
        api.POST("/api/plans/{id}/write-back", {
          params: { path: { id: plan.id } },
          body: { name: setting.name as Schemas["WriteBackRequest"]["name"], value, to },
        }),
      );
      setSaid(`kept with the ${to}: plans that leave it open start from it`);
    } catch (error) {
      setSaid(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <p className="flex flex-wrap items-center gap-2 text-ink-2">
      found best: {setting.label.toLowerCase()} {value} {setting.unit}
      <button className="quiet" onClick={() => void keep("material")}>
        keep with the material
      </button>
      {plan.latest.spool !== null && (
        <button className="quiet" onClick={() => void keep("spool")}>
          with the spool only
        </button>
      )}
      {said && <span role="status">{said}</span>}
    </p>
  );
}
