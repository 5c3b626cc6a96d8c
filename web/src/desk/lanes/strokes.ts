/** Strokes of a hand over the layer heights: what the brush does, and what a drag makes of it. */
import type { Choice } from "../state/choice";

export interface HeightStroke {
  kind: "change" | "even-out";
  from_mm: number;
  to_mm: number;
  by: number;
  /** How often it was evened out. */
  times?: number;
}

export type Does = "finer" | "taller" | "even out";

export interface HeightBrush {
  does: Does;
  /** Millimetres of height it covers where it is pressed. */
  wide: number;
  /** How much finer or taller, in per cent of what the layers there are. */
  strength: number;
}

export const FIRST_BRUSH: HeightBrush = { does: "finer", wide: 6, strength: 30 };
/** What a brush can be. */
export const BRUSH_BOUNDS = { wide: [0.5, 500], strength: [1, 90] } as const;

export const strokesOf = (choice: Choice): HeightStroke[] =>
  (choice.settings.surface?.strokes ?? []) as HeightStroke[];

/**
 * The strokes with one more, from one height to another. A stretch that is evened out again is
 * evened out more, in the same stroke.
 */
export function withStroke(
  strokes: HeightStroke[],
  brush: HeightBrush,
  [from, to]: readonly [number, number],
  top: number,
): HeightStroke[] {
  const round = (v: number) => Number(v.toFixed(3));
  const low = round(Math.max(0, Math.min(from, to) - brush.wide / 2));
  const high = round(Math.min(top, Math.max(from, to) + brush.wide / 2));
  if (high <= low) return strokes;
  const last = strokes.at(-1);
  const again =
    brush.does === "even out" &&
    last?.kind === "even-out" &&
    last.from_mm < high &&
    last.to_mm > low;
  if (again)
    return [
      ...strokes.slice(0, -1),
      {
        ...last,
        from_mm: Math.min(last.from_mm, low),
        to_mm: Math.max(last.to_mm, high),
        times: Math.min(50, (last.times ?? 1) + 1),
      },
    ];
  const by = brush.does === "finer" ? -brush.strength : brush.strength;
  const kind = brush.does === "even out" ? "even-out" : "change";
  return [...strokes, { kind, from_mm: low, to_mm: high, by }];
}
