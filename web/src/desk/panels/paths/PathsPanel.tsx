import { count, metres, signedMm, span } from "../../../format";
import { BuiltAs } from "./BuiltAs";
import { Patches } from "./Patches";
import { Patterns } from "./Patterns";
import { Stands } from "./Stands";
import { WallThickness } from "./WallThickness";
import { useRoom } from "../../state/room";

/**
 * How the body is built, and what each way of building it costs: walls, patterns against each
 * other, what is solid and why, supports, travel.
 */
export function PathsPanel() {
  const { plan, desk, settings, sight } = useRoom();
  const { spec } = desk.now;
  const { toPlace: onGo, toHeight: onHeight } = sight;
  const report = desk.report;
  if (!report) return <p className="p-4 text-ink-2">Comes with the exact plan.</p>;
  const { paths, footing, strength } = report;
  return (
    <div className="flex flex-col gap-4 p-3 text-[13px]">
      <BuiltAs plan={plan} desk={desk} settings={settings} spec={spec} onHeight={onHeight} />
      <WallThickness desk={desk} report={report} spec={spec} />
      {(desk.choice.settings.body?.build ?? "ordinary") === "ordinary" && (
        <Patterns plan={plan} desk={desk} settings={settings} spec={spec} />
      )}
      <Patches desk={desk} report={report} onGo={onGo} />
      <Stands plan={plan.id} desk={desk} report={report} onGo={onGo} />
      <section aria-label="Travel and footing">
        <h3 className="font-semibold">Travel and footing</h3>
        <p>
          {metres(paths.travel_mm)} m of travel, {metres(paths.travel_saved_mm)} m saved by
          exchanging the order · {count(paths.around)} go around walls,{" "}
          {count(paths.outer_wall_crossings)} cross one · {count(paths.retractions)}{" "}
          retractions
        </p>
        <p>
          stands on {footing.contact_mm2.toFixed(0)} mm²
          {footing.area_mm2 > footing.contact_mm2 + 1 &&
            `, with its footing ${footing.area_mm2.toFixed(0)} mm²`}{" "}
          · {footing.loops} priming {footing.loops === 1 ? "loop" : "loops"}
          {footing.lift_mm > 0 && ` · raised ${footing.lift_mm.toFixed(2)} mm by a raft`}
        </p>
        {(paths.diameter_change_mm !== 0 || paths.first_diameter_change_mm !== 0) && (
          <p>
            the outline offset makes diameters {signedMm(paths.diameter_change_mm)} and holes{" "}
            {signedMm(-paths.diameter_change_mm)}
            {paths.first_diameter_change_mm !== paths.diameter_change_mm &&
              `; on the first layer ${signedMm(paths.first_diameter_change_mm)} and ` +
                signedMm(-paths.first_diameter_change_mm)}
          </p>
        )}
        <p className="text-ink-2">
          stiffness proxy {(100 * strength.mean_stiffness).toFixed(0)} % of a solid part, least{" "}
          {(100 * strength.least_stiffness).toFixed(0)} % at {strength.least_at_mm.toFixed(2)}{" "}
          mm: second moment of area, no simulation ·{" "}
          {span(report.time_s.by_feature.travel ?? 0)} of travel
        </p>
      </section>
    </div>
  );
}
