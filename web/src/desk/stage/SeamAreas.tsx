import { NumberField } from "../panels/NumberField";
import type { Desk } from "../state/useDesk";
import { withSurface } from "../state/wanted";

export interface SeamMark {
  x: number;
  y: number;
  z: number;
  radius: number;
  want: boolean;
}

export const seamMarksOf = (desk: Desk): SeamMark[] =>
  (desk.choice.settings.surface?.seam_marks ?? []) as SeamMark[];

export function withSeamMarks(desk: Desk, marks: SeamMark[]) {
  return withSurface(desk.choice, { seam_marks: marks.length ? marks : undefined });
}

/** Where walls start: click on the part to draw seams to a place, or to keep them clear of it. */
export function SeamAreas({
  desk,
  want,
  onWant,
}: {
  desk: Desk;
  want: boolean;
  onWant: (want: boolean) => void;
}) {
  const marks = seamMarksOf(desk);
  const replaced = (n: number, mark: SeamMark) =>
    desk.change(
      withSeamMarks(
        desk,
        marks.map((old, k) => (k === n ? mark : old)),
      ),
    );
  return (
    <div
      role="group"
      aria-label="Seam areas"
      className="absolute top-11 left-3 z-[5] w-72 border border-edge bg-sheet p-2 text-[13px]"
    >
      <p>Click on the part. Elsewhere the seam follows its goal in the settings.</p>
      <div className="mt-1 flex flex-wrap">
        {(
          [
            [true, "seams here"],
            [false, "none here"],
          ] as const
        ).map(([value, name]) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={want === value}
            onClick={() => onWant(value)}
          >
            {name}
          </button>
        ))}
      </div>
      <ul>
        {marks.map((mark, n) => (
          <li key={n} className="mt-1 flex items-center gap-1">
            <span className="flex-1">
              {n + 1} {mark.want ? "seams" : "none"} at {mark.z.toFixed(1)} mm
            </span>
            <NumberField
              label={`Radius of seam area ${n + 1}`}
              unit="mm"
              value={mark.radius}
              min={0.1}
              max={500}
              step={1}
              width="w-12"
              onValue={(v) => v && replaced(n, { ...mark, radius: v })}
            />
            <button
              className="quiet"
              aria-label={`Remove seam area ${n + 1}`}
              onClick={() =>
                desk.change(
                  withSeamMarks(
                    desk,
                    marks.filter((_, k) => k !== n),
                  ),
                )
              }
            >
              remove
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
