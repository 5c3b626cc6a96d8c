import type { Layers } from "../../api/client";
import { FJORD, INK_3, NORTH } from "../../tokens";
import type { LaneScale } from "./scale";

const PIXELS = 3;

/**
 * Minutes per millimetre against the baseline: above the line this plan takes longer there, below
 * it is quicker.
 */
export function DifferenceLane({
  scale,
  layers,
  compared,
  y,
  tall,
}: {
  scale: LaneScale;
  layers: Layers;
  compared: Layers;
  y: number;
  tall: number;
}) {
  const middle = y + tall / 2;
  const bins: { x: number; v: number }[] = [];
  if (scale.axis === "height")
    for (let px = scale.left; px < scale.right; px += PIXELS) {
      const z = scale.x.invert(px + PIXELS / 2);
      bins.push({ x: px, v: pace(layers, z) - pace(compared, z) });
    }
  const most = Math.max(0.05, ...bins.map((bin) => Math.abs(bin.v)));
  return (
    <g data-ghost="difference">
      <line
        x1={scale.left}
        x2={scale.right}
        y1={middle}
        y2={middle}
        stroke={INK_3}
        strokeWidth="0.6"
      />
      {bins.map(({ x, v }) => {
        const tallness = (Math.abs(v) / most) * (tall / 2 - 1);
        return (
          tallness > 0.3 && (
            <rect
              key={x}
              x={x}
              width={PIXELS}
              y={v > 0 ? middle - tallness : middle}
              height={tallness}
              fill={v > 0 ? NORTH : FJORD}
              fillOpacity="0.55"
            />
          )
        );
      })}
      <text x={scale.left - 6} y={y + 11} textAnchor="end" fontSize="12" fill={INK_3}>
        ±{most.toFixed(1)}
      </text>
      {scale.axis === "time" && (
        <text x={scale.left + 8} y={middle + 4} fontSize="12" fill={INK_3}>
          differences are shown along the height
        </text>
      )}
    </g>
  );
}

/** Minutes per millimetre at a height. */
function pace(layers: Layers, z: number): number {
  const tops = layers.tops_mm;
  let low = 0;
  let high = tops.length - 1;
  if (z > (tops[high] ?? 0)) return 0;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((tops[middle] ?? 0) < z) low = middle + 1;
    else high = middle;
  }
  return (layers.seconds[low] ?? 0) / 60 / Math.max(layers.heights_mm[low] ?? 1, 1e-6);
}
