import type { Frontier } from "../../../api/client";
import { hours } from "../../../format";
import { INK_3, SHEET } from "../../../tokens";
import { alongLabel, labelAt, pathOf, spaced, type Spot } from "./spots";

type Even = Frontier["even"][number];

/** An even stack, and where it lies. */
export interface Shown {
  p: Even;
  at: Spot;
}

const LABELLED = [0.28, 0.2, 0.16, 0.12, 0.1, 0.08, 0.4, 0.3, 0.24, 0.6];
const labelled = (shown: Shown[]) =>
  spaced(shown.filter(({ p }) => LABELLED.includes(p.layer_height)));

/** Places along the labels of even stacks. */
export function labelsOf(shown: Shown[], handle: Spot, width: number): Spot[] {
  return labelled(shown).flatMap(({ at }) => {
    const { x, left } = labelAt(at, handle, width);
    return alongLabel(left ? x - 60 : x, at[1] - 9);
  });
}

/** What even layers cost instead. */
export function Evens({
  shown,
  handle,
  width,
  error,
}: {
  shown: Shown[];
  /** Where the handle of the target lies. */
  handle: Spot;
  width: number;
  /** The error that is measured, in µm. */
  error: (p: Even) => number;
}) {
  return (
    <>
      <path
        d={pathOf(shown.map(({ at }) => at))}
        fill="none"
        stroke={INK_3}
        strokeDasharray="5 4"
      />
      {shown.map(({ p, at: [px, py] }) => (
        <circle key={p.layer_height} cx={px} cy={py} r={2.6} fill={SHEET} stroke={INK_3}>
          <title>
            {`even ${p.layer_height} mm: ${Math.round(error(p))} µm, ` +
              `${hours(p.time_s)} ` +
              `h${p.breaks.length ? `; breaks ${p.breaks.join(", ")}` : ""}`}
          </title>
        </circle>
      ))}
      {labelled(shown).map(({ p, at }) => {
        const { x, left } = labelAt(at, handle, width);
        return (
          <text
            key={p.layer_height}
            x={x}
            y={at[1] - 5}
            fontSize="12"
            fill={INK_3}
            stroke={SHEET}
            strokeWidth="3"
            paintOrder="stroke"
            textAnchor={left ? "end" : "start"}
          >
            even {p.layer_height.toFixed(2)}
          </text>
        );
      })}
    </>
  );
}
