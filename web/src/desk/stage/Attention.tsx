import { NumberField } from "../panels/NumberField";
import type { Desk } from "../state/useDesk";
import { withSurface } from "../state/wanted";

export interface Mark {
  x: number;
  y: number;
  z: number;
  spread: number;
  attention: "seen" | "ordinary" | "hidden";
}

export const marksOf = (desk: Desk): Mark[] =>
  (desk.choice.settings.surface?.marks ?? []) as Mark[];

export function withMarks(desk: Desk, marks: Mark[]) {
  return withSurface(desk.choice, { marks: marks.length ? marks : undefined });
}

const WORDS = {
  seen: "seen: counts more",
  hidden: "hidden: does not count",
  ordinary: "ordinary again",
} as const;

/** Attention: click on a face of the part to say that its surface counts more, or not at all. */
export function Attention({
  desk,
  brush,
  onBrush,
  seen,
  hidden,
}: {
  desk: Desk;
  brush: Mark["attention"];
  onBrush: (brush: Mark["attention"]) => void;
  seen: number;
  hidden: number;
}) {
  const marks = marksOf(desk);
  return (
    <div
      role="group"
      aria-label="Attention"
      className="absolute top-11 left-3 z-[5] w-64 border border-edge bg-sheet p-2 text-[13px]"
    >
      <p>Click on a face of the part. It goes on over edges up to its spread.</p>
      <div className="mt-1 flex flex-wrap">
        {(Object.keys(WORDS) as Mark["attention"][]).map((name) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={brush === name}
            title={WORDS[name]}
            onClick={() => onBrush(name)}
          >
            {name}
          </button>
        ))}
      </div>
      <p className="mt-1 text-ink-2">
        {seen > 0 || hidden > 0
          ? `seen ${Math.round(seen)} mm², hidden ${Math.round(hidden)} mm²`
          : "nothing marked: every face counts alike"}
      </p>
      <ul>
        {marks.map((mark, n) => (
          <li key={n} className="mt-1 flex items-center gap-1">
            <span className="flex-1">
              {n + 1} {mark.attention}
            </span>
            <NumberField
              label={`Spread of mark ${n + 1}`}
              unit="°"
              value={mark.spread}
              min={0}
              max={180}
              step={5}
              width="w-12"
              onValue={(v) =>
                v !== null &&
                desk.change(
                  withMarks(
                    desk,
                    marks.map((old, k) => (k === n ? { ...mark, spread: v } : old)),
                  ),
                )
              }
            />
            <button
              className="quiet"
              aria-label={`Remove mark ${n + 1}`}
              onClick={() =>
                desk.change(
                  withMarks(
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
