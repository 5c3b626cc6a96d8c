import { hours, span } from "../../../format";
import { INK, SHEET } from "../../../tokens";

/** A proposed change: from where the plan is to where it would be, as seconds and µm. */
export interface Arrow {
  from: [number, number];
  to: [number, number];
  label: string;
}

/** A proposed change as an arrow that ends at a small open head. */
export function ArrowLine({
  arrow,
  lower,
  x,
  y,
}: {
  arrow: Arrow;
  lower: number;
  x: (s: number) => number;
  y: (um: number) => number;
}) {
  const [x0, y0, x1, y1] = [
    x(arrow.from[0]),
    y(arrow.from[1]),
    x(arrow.to[0]),
    y(arrow.to[1]),
  ];
  const long = Math.hypot(x1 - x0, y1 - y0);
  if (long < 6) return null;
  const [ux, uy] = [(x1 - x0) / long, (y1 - y0) / long];
  const head =
    `M${x1 - 8 * ux - 4 * uy} ${y1 - 8 * uy + 4 * ux}L${x1} ` +
    `${y1}L${x1 - 8 * ux + 4 * uy} ${y1 - 8 * uy - 4 * ux}`;
  return (
    <g data-arrow={arrow.label}>
      <path d={`M${x0} ${y0}L${x1} ${y1}${head}`} fill="none" stroke={SHEET} strokeWidth="4" />
      <path d={`M${x0} ${y0}L${x1} ${y1}${head}`} fill="none" stroke={INK} strokeWidth="1.3">
        <title>
          {`proposed: ${arrow.label}, ${hours(arrow.to[0])} h, ` +
            `${Math.round(arrow.to[1])} µm`}
        </title>
      </path>
      <text
        x={x1 + 2}
        y={y1 + 15 + 13 * lower}
        fontSize="12"
        fill={INK}
        stroke={SHEET}
        strokeWidth="3"
        paintOrder="stroke"
      >
        {arrow.label} −{span(arrow.from[0] - arrow.to[0])}
      </text>
    </g>
  );
}
