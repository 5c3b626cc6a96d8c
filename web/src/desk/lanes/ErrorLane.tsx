import type { Surface } from "../../api/client";
import { INK_3, LOOK, NORTH, SHEET } from "../../tokens";
import { type LaneScale, stepLine, steps } from "./scale";

export type Above = Surface["above"][number];

/** The largest step error of every layer, filled, its mean as a line, and the target across. */
export function ErrorLane({
  scale,
  largest,
  mean,
  target,
  above,
  y,
  tall,
  place,
}: {
  scale: LaneScale;
  largest: number[];
  mean: number[];
  target: number | null;
  /** What a percentile or a mean lets go above the target, by stretch. */
  above: readonly Above[];
  y: number;
  tall: number;
  /** Where a height lies, in pixels. */
  place: (z: number) => number;
}) {
  const most = Math.max(10, target ?? 0, ...thin(largest)) * 1.08;
  const up = (v: number) => y + tall - (v / most) * (tall - 2);
  const { left, right } = scale;
  return (
    <g>
      <path
        d={steps(scale, largest, up, y + tall)}
        fill={NORTH}
        fillOpacity="0.28"
        stroke="none"
      />
      <path
        d={stepLine(scale, mean, up)}
        fill="none"
        stroke={NORTH}
        strokeWidth="1"
        strokeOpacity="0.8"
      />
      <text x={left - 6} y={y + 10} textAnchor="end" fontSize="12" fill={INK_3}>
        {Math.round(most / 1.08)}
      </text>
      {target !== null && (
        <g>
          <line
            x1={left}
            x2={right}
            y1={up(target)}
            y2={up(target)}
            stroke={NORTH}
            strokeDasharray="4 3"
          />
          {Math.abs(up(target) - (y + 6)) > 12 && (
            <text
              x={left - 6}
              y={up(target) + 4}
              textAnchor="end"
              fontSize="12"
              fill={NORTH}
              stroke={SHEET}
              strokeWidth="3"
              paintOrder="stroke"
            >
              {Math.round(target)}
            </text>
          )}
        </g>
      )}
      {target !== null &&
        above.map(({ from_mm, to_mm }) => {
          const [x0, x1] = [place(from_mm), place(to_mm)].map((x) =>
            Math.max(left, Math.min(right, x)),
          ) as [number, number];
          return (
            <path
              key={from_mm}
              d={`M${x0} ${y + 6}V${y + 1}H${Math.max(x1, x0 + 2)}V${y + 6}`}
              fill="none"
              stroke={LOOK}
              strokeWidth="2"
            />
          );
        })}
    </g>
  );
}

/** At most some thousand values, so that spreading them is safe. */
function thin(values: number[]): number[] {
  if (values.length < 5000) return values;
  return [values.reduce((a, b) => Math.max(a, b), 0)];
}
