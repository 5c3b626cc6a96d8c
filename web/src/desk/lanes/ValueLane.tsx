import { INK_3, SHEET } from "../../tokens";
import { type LaneScale, steps } from "./scale";

/**
 * A lane of one value a layer, drawn as a filled profile with its greatest value named at the left.
 */
export function ValueLane({
  scale,
  values,
  colour,
  y,
  tall,
  format,
  guide,
  floating = false,
}: {
  scale: LaneScale;
  values: ArrayLike<number>;
  colour: string;
  y: number;
  tall: number;
  format: (v: number) => string;
  guide?: { value: number; label: string };
  /** Drawn from a little under its least value, which is then named too. */
  floating?: boolean;
}) {
  let most = 0;
  for (let k = 0; k < values.length; k++) most = Math.max(most, values[k] ?? 0);
  if (guide) most = Math.max(most, guide.value);
  let least = floating ? most : 0;
  if (floating)
    for (let k = 0; k < values.length; k++) least = Math.min(least, values[k] ?? 0);
  const base = floating ? Math.max(0, least - Math.max(1, (most - least) * 0.35)) : 0;
  const up = (v: number) =>
    y + tall - (most > base ? (v - base) / (most - base) : 0) * (tall - 6);
  const [left, right] = [scale.left, scale.right];
  return (
    <g>
      <path
        d={steps(scale, values, up, y + tall)}
        fill={colour}
        fillOpacity="0.3"
        stroke={colour}
        strokeWidth="1.2"
      />
      <text x={left - 6} y={y + 12} textAnchor="end" fontSize="12" fill={INK_3}>
        {format(most)}
      </text>
      {floating && least < most && (
        <text x={left - 6} y={y + tall} textAnchor="end" fontSize="12" fill={INK_3}>
          {format(least)}
        </text>
      )}
      {guide && guide.value > 0 && (
        <g>
          <line
            x1={left}
            x2={right}
            y1={up(guide.value)}
            y2={up(guide.value)}
            stroke={INK_3}
            strokeDasharray="4 3"
          />
          <text
            x={left + 12}
            y={up(guide.value) - 3}
            fontSize="12"
            fill={INK_3}
            stroke={SHEET}
            strokeWidth="3"
            paintOrder="stroke"
          >
            {guide.label}
          </text>
        </g>
      )}
    </g>
  );
}
