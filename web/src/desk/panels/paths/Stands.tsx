import type { Report } from "../../../api/client";
import { grams, span } from "../../../format";
import { toFile, useShape } from "../../stage/useShape";
import { withValue } from "../../state/choice";
import type { Desk } from "../../state/useDesk";
import { KindOfStand } from "./KindOfStand";

export interface SupportMark {
  x: number;
  y: number;
  z: number;
  spread: number;
  radius: number;
  want: boolean;
  erase?: boolean;
  /** Further points of a stroke. */
  along?: [number, number, number][];
}

export const supportMarksOf = (desk: Desk): SupportMark[] =>
  (desk.choice.settings.supports?.marks ?? []) as SupportMark[];

export function withSupportMarks(desk: Desk, marks: SupportMark[]) {
  return {
    ...desk.choice,
    settings: withValue(
      desk.choice.settings,
      "supports",
      "marks",
      marks.length ? marks : undefined,
      undefined,
    ),
  };
}

/** Findings that say something hangs. */
const LEFT = ["overhang", "open-bottom", "starts-in-air"];

/**
 * Every stand of support: why it is there, what it costs and touches, and dropped with one press.
 */
export function Stands({
  plan,
  desk,
  report,
  onGo,
}: {
  plan: number;
  desk: Desk;
  report: Report;
  onGo: (at: [number, number, number], title: string) => void;
}) {
  const on = desk.choice.settings.supports?.enabled === true;
  const place = JSON.stringify([
    desk.choice.settings.place ?? {},
    desk.choice.settings.surface?.marks ?? [],
  ]);
  const affine = useShape(plan, place).data?.affine;
  const marks = supportMarksOf(desk);
  const set = (enabled: boolean) =>
    desk.change({
      ...desk.choice,
      settings: withValue(desk.choice.settings, "supports", "enabled", enabled, false),
    });
  const forbid = (stand: Report["stands"][number]) => {
    if (!affine) return;
    const [x, y, z] = toFile(affine, stand.at_mm as [number, number, number]).map((v) =>
      Number(v.toFixed(3)),
    ) as [number, number, number];
    desk.change(
      withSupportMarks(desk, [...marks, { x, y, z, spread: 30, radius: 0, want: false }]),
    );
  };
  const mass = report.filament.by_feature_mm;
  const share =
    ((mass.support ?? 0) + (mass["support-roof"] ?? 0)) /
    Math.max(report.filament.length_mm, 1e-9);
  return (
    <section aria-label="Supports">
      <h3 className="font-semibold">Supports</h3>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-ink"
            checked={on}
            onChange={(event) => set(event.target.checked)}
          />{" "}
          hold up what leans out
        </label>
        {report.stands.length > 0 && (
          <span>
            {report.stands.length} {report.stands.length === 1 ? "stand" : "stands"},{" "}
            {span(report.stands.reduce((sum, stand) => sum + stand.seconds, 0))},{" "}
            {grams(share * report.filament.mass_g)} g
          </span>
        )}
        {marks.length > 0 && (
          <span>
            {marks.length} by hand{" "}
            <button className="quiet" onClick={() => desk.change(withSupportMarks(desk, []))}>
              take all back
            </button>
          </span>
        )}
      </p>
      {on && <KindOfStand plan={plan} desk={desk} />}
      <ul className="narrow mt-1">
        {report.stands.slice(0, 20).map((stand) => (
          <li
            key={stand.number}
            data-stand={stand.number}
            className="flex items-center gap-2 border-t border-hairline"
          >
            <button
              className="quiet"
              onClick={() => onGo(stand.at_mm as [number, number, number], stand.why)}
            >
              {stand.from_mm.toFixed(1)} – {stand.to_mm.toFixed(1)} mm
            </button>
            <span className="flex-1">
              {span(stand.seconds)} · touches {stand.contact_mm2.toFixed(0)} mm²
              {stand.seen_mm2 > 0.5 && `, ${stand.seen_mm2.toFixed(0)} mm² of it seen`}
              {stand.on_part && " · stands on the part"} · {stand.why}
            </span>
            <button className="quiet" disabled={!affine} onClick={() => forbid(stand)}>
              drop
            </button>
          </li>
        ))}
      </ul>
      {on && report.stands.length === 0 && (
        <p className="text-ink-2">
          {report.findings.some((finding) => LEFT.includes(finding.code))
            ? "none can stand where it is needed: Findings say what is left hanging"
            : "nothing leans out far enough to need them"}
        </p>
      )}
    </section>
  );
}
