import { heightColour, INK, NORTH } from "../../tokens";

const REACH = 4;
const WIDE = 132;
const TALL = 26;

/**
 * A few layers at the cursor, drawn to scale, where the lanes are too narrow to tell them apart.
 */
export function Lens({
  heights,
  layer,
  least,
  greatest,
}: {
  heights: number[];
  layer: number;
  least: number;
  greatest: number;
}) {
  const colour = heightColour(least, greatest);
  const from = Math.max(0, Math.min(layer - REACH, heights.length - 2 * REACH - 1));
  const shown = heights.slice(from, from + 2 * REACH + 1);
  const sum = shown.reduce((a, b) => a + b, 0) || 1;
  let x = 0;
  return (
    <svg
      width={WIDE}
      height={TALL}
      role="img"
      aria-label={
        `layers ${from + 1} to ${from + shown.length}: ` +
        `${shown.map((h) => h.toFixed(2)).join(", ")} mm`
      }
      className="ml-auto shrink-0 border border-hairline"
    >
      {shown.map((h, n) => {
        const wide = (h / sum) * WIDE;
        const tall = (h / (greatest * 1.08)) * TALL;
        const at = x;
        x += wide;
        return (
          <rect
            key={n}
            x={at + 0.5}
            y={TALL - tall}
            width={Math.max(1, wide - 1)}
            height={tall}
            fill={colour(h)}
            stroke={from + n === layer ? NORTH : INK}
            strokeWidth={from + n === layer ? 2 : 0.4}
          />
        );
      })}
    </svg>
  );
}
