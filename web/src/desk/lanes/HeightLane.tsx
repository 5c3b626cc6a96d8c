import { heightColour, INK, INK_3 } from "../../tokens";
import { type LaneScale, steps } from "./scale";

/** Layer heights: a stepped outline filled by the one ramp; the machine's limits are dotted. */
export function HeightLane({ scale, heights, least, greatest, y, tall }: {
  scale: LaneScale; heights: number[]; least: number; greatest: number; y: number; tall: number;
}) {
  const colour = heightColour(least, greatest);
  const up = (h: number) => y + tall - (h / (greatest * 1.08)) * (tall - 4);
  const runs: { from: number; to: number; h: number }[] = [];
  heights.forEach((h, k) => {
    const last = runs.at(-1);
    if (last && last.h === h) last.to = k + 1;
    else runs.push({ from: k, to: k + 1, h });
  });
  const [left, right] = scale.x.range() as [number, number];
  const separate = heights.length > 1 && (right - left) / heights.length >= 4;
  return (
    <g>
      {runs.map((run) => {
        const x = scale.x(scale.edges[run.from] ?? 0);
        return <rect key={run.from} x={x} y={up(run.h)} width={Math.max(0.5, scale.x(scale.edges[run.to] ?? 0) - x)} height={y + tall - up(run.h)} fill={colour(run.h)} />;
      })}
      {separate && heights.map((_, k) => <line key={k} x1={scale.x(scale.edges[k] ?? 0)} x2={scale.x(scale.edges[k] ?? 0)} y1={up(heights[k] ?? 0)} y2={y + tall} stroke="#FBFAF6" strokeWidth="0.5" />)}
      <path d={steps(scale, heights, up, y + tall)} fill="none" stroke={INK} strokeWidth="1" />
      {[least, greatest].map((h) => (
        <g key={h}>
          <line x1={left} x2={right} y1={up(h)} y2={up(h)} stroke={INK_3} strokeDasharray="1 3" />
          <text x={left - 6} y={up(h) + 4} textAnchor="end" fontSize="12" fill={INK_3}>{h.toFixed(2)}</text>
        </g>
      ))}
    </g>
  );
}
