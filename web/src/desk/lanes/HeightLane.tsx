import { heightColour, INK, INK_3, SHEET } from "../../tokens";
import { inView, type LaneScale, stepLine, steps } from "./scale";

/** Where a layer height is drawn in the lane, and the way back. */
export function heightScale(greatest: number, y: number, tall: number) {
  const top = greatest * 1.08;
  return {
    up: (h: number) => y + tall - (h / top) * (tall - 4),
    down: (py: number) => ((y + tall - py) / (tall - 4)) * top,
  };
}

/**
 * Layer heights: a stepped outline filled by the one ramp; the machine's limits are dotted, the
 * baseline a dashed line.
 */
export function HeightLane({
  scale,
  heights,
  least,
  greatest,
  y,
  tall,
  ghost,
}: {
  scale: LaneScale;
  heights: number[];
  least: number;
  greatest: number;
  y: number;
  tall: number;
  ghost: string | null;
}) {
  const colour = heightColour(least, greatest);
  const { up } = heightScale(greatest, y, tall);
  const [first, last] = inView(scale);
  const runs: { from: number; to: number; h: number }[] = [];
  for (let k = first; k < last; k++) {
    const h = heights[k] ?? 0;
    const run = runs.at(-1);
    if (run && run.h === h) run.to = k + 1;
    else runs.push({ from: k, to: k + 1, h });
  }
  const { left, right } = scale;
  const separate = last - first > 1 && (right - left) / (last - first) >= 4;
  return (
    <g>
      {runs.map((run) => {
        const x = Math.max(left, scale.x(scale.edges[run.from] ?? 0));
        return (
          <rect
            key={run.from}
            x={x}
            y={up(run.h)}
            width={Math.max(0.5, Math.min(right, scale.x(scale.edges[run.to] ?? 0)) - x)}
            height={y + tall - up(run.h)}
            fill={colour(run.h)}
          />
        );
      })}
      {separate &&
        heights.slice(first, last).map((h, n) => {
          const x = scale.x(scale.edges[first + n] ?? 0);
          return (
            x > left && (
              <line
                key={n}
                x1={x}
                x2={x}
                y1={up(h)}
                y2={y + tall}
                stroke={SHEET}
                strokeWidth="0.5"
              />
            )
          );
        })}
      <path d={steps(scale, heights, up, y + tall)} fill="none" stroke={INK} strokeWidth="1" />
      {ghost && (
        <path data-ghost="heights" d={ghost} fill="none" stroke={SHEET} strokeWidth="3" />
      )}
      {ghost && (
        <path d={ghost} fill="none" stroke={INK} strokeWidth="1.4" strokeDasharray="4 3" />
      )}
      {[least, greatest].map((h) => (
        <g key={h}>
          <line
            x1={left}
            x2={right}
            y1={up(h)}
            y2={up(h)}
            stroke={INK_3}
            strokeDasharray="1 3"
          />
          <text x={left - 6} y={up(h) + 4} textAnchor="end" fontSize="12" fill={INK_3}>
            {h.toFixed(2)}
          </text>
        </g>
      ))}
    </g>
  );
}

/**
 * Heights of another stack along the same axis; null where the axis counts time, which is another
 * for each.
 */
export function ghostLine(
  scale: LaneScale,
  tops: number[],
  heights: number[],
  up: (h: number) => number,
): string | null {
  if (scale.axis !== "height") return null;
  const edges = Float64Array.from([0, ...tops]);
  return stepLine({ ...scale, edges }, heights, up);
}
