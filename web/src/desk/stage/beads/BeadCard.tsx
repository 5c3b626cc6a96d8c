import { clsx } from "clsx";
import type { Report } from "../../../api/client";
import { span } from "../../../format";
import { FEATURES } from "../../../tokens";
import { patchesOf, withPatch } from "../../panels/paths/patches";
import type { Desk } from "../../state/useDesk";
import type { Bead } from "./beadAt";

const WHY: Record<string, string> = {
  top: "a top",
  bottom: "a bottom",
  floor: "a solid floor",
  full: "no room is left for infill, or 100 % is asked for",
  narrow: "it is too narrow for infill",
};

/**
 * The bead under the pointer in figures; clicked, it stays, and what is solid or held up can be
 * changed from here.
 */
export function BeadCard({
  bead,
  report,
  safe,
  least,
  kept,
  desk,
  onClose,
}: {
  bead: Bead;
  report: Report | null;
  safe: number;
  least: number;
  kept: boolean;
  desk: Desk;
  onClose: () => void;
}) {
  const cause = ["solid", "top", "bridge"].includes(bead.feature)
    ? report?.solid.causes[bead.cause]
    : undefined;
  const patch = cause ? report?.solid.patches[Number(cause[0])] : undefined;
  const stand = bead.feature.startsWith("support")
    ? report?.stands.find((entry) => entry.number === bead.cause)
    : undefined;
  const seconds = report?.layers.seconds[bead.layer];
  const apart = cause ? Number(cause[2]) - bead.at[2] : 0;
  return (
    <section
      aria-label="Bead"
      data-bead={bead.feature}
      className={clsx(
        "narrow absolute right-3 bottom-14 max-w-[340px] border border-hairline",
        "bg-sheet/95 px-2 py-1 text-[13px]",
      )}
    >
      <p>
        <b>{FEATURES[bead.feature].label}</b> {bead.width.toFixed(2)} ×{" "}
        {bead.height.toFixed(2)} mm
        {kept && (
          <button
            className="quiet float-right -mr-1"
            aria-label="Close the bead"
            onClick={onClose}
          >
            close
          </button>
        )}
      </p>
      <p>
        {Math.round(bead.reached)} of {Math.round(bead.asked)} mm/s · {bead.flow.toFixed(1)}{" "}
        mm³/s
        {safe > 0 && `, ${Math.round((100 * bead.flow) / safe)} % of the safe flow`}
      </p>
      <p>
        layer {bead.layer + 1} at {bead.at[2].toFixed(2)} mm
        {seconds !== undefined && ` · ${span(seconds)} a layer, least ${least} s`}
      </p>
      {cause && (
        <p>
          solid because of {WHY[String(cause[1])] ?? String(cause[1])}
          {(cause[1] === "top" || cause[1] === "bottom" || cause[1] === "floor") &&
            ` at ${Number(cause[2]).toFixed(2)} mm`}
          {(cause[1] === "top" || cause[1] === "bottom") &&
            Math.abs(apart) > 0.005 &&
            `, carried ${Math.abs(apart).toFixed(2)} mm ${apart > 0 ? "down" : "up"}`}
          {patch && ` · patch of ${patch.area_mm2.toFixed(1)} mm², ${span(patch.seconds)}`}
        </p>
      )}
      {stand && (
        <p>
          {stand.why} · stand of {stand.contact_mm2.toFixed(0)} mm² contact,{" "}
          {span(stand.seconds)}
        </p>
      )}
      {kept && patch && (
        <p>
          <button className="quiet" onClick={() => desk.change(withPatch(desk, patch, false))}>
            make this patch infill
          </button>{" "}
          <span className="text-ink-3">
            {patchesOf(desk).length > 0 && `${patchesOf(desk).length} by hand`}
          </span>
        </p>
      )}
      {!kept && <p className="text-ink-3">click keeps it here</p>}
    </section>
  );
}
