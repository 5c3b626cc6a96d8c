import type { ScaleLinear } from "d3-scale";

import { distinct, minutesOn } from "../../../format";
import { HAIRLINE, INK_3 } from "../../../tokens";
import { PAD } from "./spots";

/** Lines and figures of print time along x and step error along y. */
export function Axes({
  x,
  y,
  width,
  height,
  error,
}: {
  /** Of minutes, and of µm. */
  x: ScaleLinear<number, number>;
  y: ScaleLinear<number, number>;
  width: number;
  height: number;
  /** What the error is called. */
  error: string;
}) {
  /** Minutes the chart is wide. */
  const spread = (x.domain()[1] ?? 0) - (x.domain()[0] ?? 0);
  return (
    <>
      {distinct(x.ticks(6), minutesOn(spread)).map(([t, word]) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={PAD.top} y2={height - PAD.bottom} stroke={HAIRLINE} />
          <text
            x={x(t)}
            y={height - PAD.bottom + 14}
            fontSize="12"
            fill={INK_3}
            textAnchor="middle"
          >
            {word}
          </text>
        </g>
      ))}
      {distinct(y.ticks(5), String).map(([e]) => (
        <g key={e}>
          <line x1={PAD.left} x2={width - PAD.right} y1={y(e)} y2={y(e)} stroke={HAIRLINE} />
          <text x={PAD.left - 5} y={y(e) + 4} fontSize="12" fill={INK_3} textAnchor="end">
            {e}
          </text>
        </g>
      ))}
      <text x={4} y={13} fontSize="12" fill={INK_3}>
        {error} (µm)
      </text>
      <text x={width - PAD.right} y={height - 5} fontSize="12" fill={INK_3} textAnchor="end">
        print time ({spread < 6 ? "h:min:s" : "h:min"})
      </text>
    </>
  );
}
