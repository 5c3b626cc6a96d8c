import { BODY, INK } from "../../tokens";
import { inView, type LaneScale } from "./scale";

/** The part lying on its side, so that the axis explains itself. */
export function Side({
  scale,
  outline,
  y,
  tall,
}: {
  scale: LaneScale;
  outline: { low: Float32Array; high: Float32Array };
  y: number;
  tall: number;
}) {
  const all = [...outline.low.keys()].filter((k) =>
    Number.isFinite(outline.low[k] ?? Infinity),
  );
  let [low, high] = [Infinity, -Infinity];
  for (const k of all) {
    low = Math.min(low, outline.low[k] ?? 0);
    high = Math.max(high, outline.high[k] ?? 0);
  }
  const [first, last] = inView(scale);
  const known = all.filter((k) => k >= first && k < last);
  const up = (v: number) => y + tall - ((v - low) / Math.max(high - low, 1e-6)) * tall;
  const px = (k: number) =>
    Math.max(scale.left, Math.min(scale.right, scale.x(scale.edges[k] ?? 0))).toFixed(1);
  const there = known.flatMap((k) => [
    `${px(k)} ${up(outline.high[k] ?? 0).toFixed(1)}`,
    `${px(k + 1)} ${up(outline.high[k] ?? 0).toFixed(1)}`,
  ]);
  const back = known
    .reverse()
    .flatMap((k) => [
      `${px(k + 1)} ${up(outline.low[k] ?? 0).toFixed(1)}`,
      `${px(k)} ${up(outline.low[k] ?? 0).toFixed(1)}`,
    ]);
  return (
    <path d={`M${[...there, ...back].join("L")}Z`} fill={BODY} stroke={INK} strokeWidth="1" />
  );
}
