import type { Report } from "../../../api/client";
import { NumberField } from "../NumberField";
import { type Values, withValues } from "../../state/choice";
import type { Desk } from "../../state/useDesk";

const num = (value: unknown): number => (typeof value === "number" ? value : 0);

/**
 * Bead widths against the number of walls: kept, the thickness stays what it is and the number
 * follows.
 */
export function WallThickness({
  desk,
  report,
  spec,
}: {
  desk: Desk;
  report: Report;
  spec: Values;
}) {
  // what was just typed stands before the plan answers
  const body: Record<string, unknown> = {
    ...spec.body,
    wall_thickness: undefined,
    ...desk.choice.settings.body,
  };
  const kept = typeof body.wall_thickness === "number";
  const { walls, wall_thickness_mm: thickness } = report.paths;
  const set = (values: Record<string, unknown>) =>
    desk.change({
      ...desk.choice,
      settings: withValues(desk.choice.settings, "body", values),
    });
  return (
    <section aria-label="Walls">
      <h3 className="font-semibold">Walls</h3>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        outer{" "}
        <NumberField
          label="Outer wall width"
          unit="mm"
          value={num(body.outer_width)}
          min={0.1}
          max={4}
          step={0.05}
          width="w-14"
          onValue={(v) => v !== null && set({ outer_width: v })}
        />
        inner{" "}
        <NumberField
          label="Inner wall width"
          unit="mm"
          value={num(body.inner_width)}
          min={0.1}
          max={4}
          step={0.05}
          width="w-14"
          onValue={(v) => v !== null && set({ inner_width: v })}
        />
      </p>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-ink"
            checked={kept}
            onChange={(event) =>
              set(
                event.target.checked
                  ? { wall_thickness: Number(thickness.toFixed(3)) }
                  : { wall_thickness: undefined, walls },
              )
            }
          />
          keep the thickness
        </label>
        {kept && (
          <NumberField
            label="Wall thickness"
            unit="mm"
            value={num(body.wall_thickness)}
            min={0}
            max={50}
            step={0.1}
            width="w-16"
            onValue={(v) => v !== null && set({ wall_thickness: v })}
          />
        )}
        <b data-figure="walls">
          {walls} {walls === 1 ? "wall" : "walls"}, {thickness.toFixed(2)} mm
        </b>
        {kept && Math.abs(thickness - num(body.wall_thickness)) > 0.02 && (
          <span className="text-ink-2">the nearest a whole number gives</span>
        )}
      </p>
    </section>
  );
}
