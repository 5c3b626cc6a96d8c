import type { Report } from "../../../api/client";
import { span } from "../../../format";
import type { Desk } from "../../state/useDesk";
import { patchesOf, withPatch, withPatches } from "./patches";

/** Patches that are listed; the rest costs less than these. */
const MOST = 12;

/** What is solid, the costly first: which flat causes it, and each kept or dropped. */
export function Patches({
  desk,
  report,
  onGo,
}: {
  desk: Desk;
  report: Report;
  onGo: (at: [number, number, number], title: string) => void;
}) {
  const patches = report.solid.patches;
  const own = patchesOf(desk);
  const solid = patches.filter((patch) => patch.solid);
  const seconds = solid.reduce((sum, patch) => sum + patch.seconds, 0);
  return (
    <section aria-label="Solid patches">
      <h3 className="font-semibold">Solid patches</h3>
      <p>
        {solid.length} patches, {span(seconds)}
        {patches.length > solid.length &&
          ` · ${patches.length - solid.length} too small, laid as infill`}
        {own.length > 0 && (
          <>
            {" "}
            · {own.length} by hand{" "}
            <button className="quiet" onClick={() => desk.change(withPatches(desk, []))}>
              take all back
            </button>
          </>
        )}
      </p>
      <ul className="narrow mt-1">
        {patches.slice(0, MOST).map((patch, k) => {
          const [x = 0, y = 0, z = 0] = patch.at_mm;
          const words =
            `${patch.area_mm2.toFixed(1)} mm², ` +
            (patch.solid ? span(patch.seconds) : "infill");
          return (
            <li
              key={k}
              data-patch={k}
              className="flex items-center gap-2 border-t border-hairline"
            >
              <button
                className="quiet"
                onClick={() =>
                  onGo(
                    [x, y, z],
                    `Solid patch of ${words}, because of a ${patch.kinds.join(" and a ")}`,
                  )
                }
              >
                {patch.from_mm.toFixed(2)} – {patch.to_mm.toFixed(2)} mm
              </button>
              <span className="flex-1">
                {words} · {patch.solid ? patch.kinds.join(", ") : "below the least solid area"}
              </span>
              <button
                className="quiet"
                onClick={() => desk.change(withPatch(desk, patch, !patch.solid))}
              >
                {patch.solid ? "drop" : "keep solid"}
              </button>
            </li>
          );
        })}
      </ul>
      {patches.length > MOST && (
        <p className="text-ink-3">
          and {patches.length - MOST} more; a click on a bead of the stage says why it is solid
        </p>
      )}
    </section>
  );
}
