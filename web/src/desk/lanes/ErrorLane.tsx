import { INK_3, NORTH, SHEET } from "../../tokens";
import { type LaneScale, stepLine, steps } from "./scale";

/** The largest step error of every layer, filled, its mean as a line, and the target across. */
export function ErrorLane({
  scale,
  largest,
  mean,
  target,
  y,
  tall,
}: {
  scale: LaneScale;
  largest: number[];
  mean: number[];
  target: number | null;
  y: number;
  tall: number;
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
    </g>
  );
}

/** At most some thousand values, so that spreading them is safe. */
function thin(values: number[]): number[] {
  if (values.length < 5000) return values;
  return [values.reduce((a, b) => Math.max(a, b), 0)];
}
