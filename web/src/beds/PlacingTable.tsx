import { NumberField } from "../desk/panels/NumberField";
import { grams, span } from "../format";
import { nameOf } from "./BedMap";
import type { BedRoom, Placing } from "./useBed";

/** The twin of the map: every placing with typed place, turn and group. */
export function PlacingTable({ here }: { here: BedRoom }) {
  const { placings, picked, report, spec, bed } = here;
  const set = (number: number, changes: Partial<Placing>) =>
    here.put(
      placings.map((placing, k) => (k === number ? { ...placing, ...changes } : placing)),
    );
  if (!placings.length)
    return (
      <p className="p-3 text-[13px] text-ink-2">
        Nothing is on the bed. Choose a plan above and fill the bed with it, or add a copy.
      </p>
    );
  return (
    <table className="w-full border-collapse text-[13px]" aria-label="Placings">
      <thead>
        <tr className="narrow text-left text-ink-3">
          <th className="p-1">no.</th>
          <th className="p-1">plan</th>
          <th className="p-1">x mm</th>
          <th className="p-1">y mm</th>
          <th className="p-1">turn °</th>
          {spec?.way === "groups" && <th className="p-1">group</th>}
          {spec?.pauses === "chosen" && <th className="p-1">pause</th>}
          <th className="p-1 text-right">takes</th>
          <th className="p-1" />
        </tr>
      </thead>
      <tbody>
        {placings.map((placing, k) => {
          const figures = here.fresh ? report?.placings[k] : undefined;
          const name = `${k + 1}`;
          return (
            <tr
              key={k}
              data-row={k + 1}
              className={`border-t border-hairline ${picked === k ? "bg-sand/60" : ""}`}
              onClick={() => here.pick(k)}
            >
              <td className="p-1 font-semibold">{k + 1}</td>
              <td className="max-w-28 truncate p-1" title={nameOf(here, placing)}>
                {nameOf(here, placing)}
                {bed?.version.beside.includes(k + 1) && (
                  <span className="block text-[12px] text-stop">did not fit</span>
                )}
              </td>
              {(["x", "y", "turn"] as const).map((axis) => (
                <td key={axis} className="p-0.5">
                  <NumberField
                    label={`${axis} of placing ${name}`}
                    unit=""
                    value={placing[axis]}
                    min={axis === "turn" ? -360 : -5000}
                    max={axis === "turn" ? 360 : 5000}
                    step={axis === "turn" ? 15 : 1}
                    width="w-16"
                    onValue={(v) => v !== null && set(k, { [axis]: v })}
                  />
                </td>
              ))}
              {spec?.way === "groups" && (
                <td className="p-0.5">
                  <NumberField
                    label={`Group of placing ${name}`}
                    unit=""
                    value={placing.group}
                    min={1}
                    max={400}
                    step={1}
                    width="w-12"
                    onValue={(v) => v !== null && set(k, { group: Math.round(v) })}
                  />
                </td>
              )}
              {spec?.pauses === "chosen" && (
                <td className="p-1">
                  <input
                    type="checkbox"
                    className="accent-ink"
                    aria-label={`Pause after placing ${name}`}
                    checked={placing.pause}
                    onChange={(event) => set(k, { pause: event.target.checked })}
                  />
                </td>
              )}
              <td className="narrow p-1 text-right whitespace-nowrap">
                {figures ? `${span(figures.seconds)} · ${grams(figures.grams)} g` : "…"}
              </td>
              <td className="p-0.5 whitespace-nowrap">
                <button
                  className="quiet"
                  aria-pressed={placing.locked}
                  aria-label={`Lock placing ${name}`}
                  title="Arranging leaves it where it is"
                  onClick={() => set(k, { locked: !placing.locked })}
                >
                  lock
                </button>{" "}
                <button
                  className="quiet"
                  aria-label={`Copy placing ${name}`}
                  onClick={() =>
                    here.put([
                      ...placings,
                      { ...placing, x: placing.x + 10, y: placing.y - 10, locked: false },
                    ])
                  }
                >
                  copy
                </button>{" "}
                <button
                  className="quiet"
                  aria-label={`Remove placing ${name}`}
                  onClick={() => {
                    here.pick(null);
                    here.put(placings.filter((_, other) => other !== k));
                  }}
                >
                  ×
                </button>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
