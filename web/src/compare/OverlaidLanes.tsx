import { scaleLinear } from "d3-scale";

import { plain } from "../format";
import { useSize } from "../frame/useSize";
import { HAIRLINE, INK_3, NORTH, SHEET } from "../tokens";
import { type Compared, MARKS, titleOf } from "./useCompared";

const LANES = [
  ["min_per_mm", "Minutes a millimetre", "min/mm"],
  ["error_um", "Step error", "µm"],
  ["heights_mm", "Layer height", "mm"],
] as const;
const LEFT = 170;
const TALL = 84;

/**
 * The lanes of all plans over each other: bed at the left, top at the right; the baseline dashed. A
 * click sets the height.
 */
export function OverlaidLanes({
  found,
  z,
  onHeight,
}: {
  found: Compared;
  z: number;
  onHeight: (z: number) => void;
}) {
  const [box, width] = useSize(900, 0);
  const top = Math.max(...found.plans.map((plan) => plan.tops_mm.at(-1) ?? 0), 1);
  const x = scaleLinear()
    .domain([0, top])
    .range([LEFT, width - 12]);
  const height = LANES.length * TALL + 26;
  const at = (plan: Compared["plans"][number]) => {
    const k = plan.tops_mm.findIndex((edge) => edge >= z - 1e-6);
    return k < 0 ? plan.tops_mm.length - 1 : k;
  };
  const step = (by: number) => onHeight(Math.max(0, Math.min(top, z + by)));
  return (
    <div ref={box} className="w-full">
      <svg
        width={width}
        height={height}
        className="narrow block touch-none"
        role="slider"
        tabIndex={0}
        aria-label="Height in the lanes of all plans"
        aria-valuemin={0}
        aria-valuemax={top}
        aria-valuenow={z}
        aria-valuetext={`${z.toFixed(2)} mm`}
        onKeyDown={(event) => {
          const by = {
            ArrowLeft: -0.2,
            ArrowDown: -0.2,
            ArrowRight: 0.2,
            ArrowUp: 0.2,
            PageUp: 2,
            PageDown: -2,
          }[event.key];
          if (by) {
            event.preventDefault();
            step(by);
          }
        }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          onHeight(
            Math.max(
              0,
              Math.min(
                top,
                x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left),
              ),
            ),
          );
        }}
        onPointerMove={(event) =>
          event.buttons &&
          onHeight(
            Math.max(
              0,
              Math.min(
                top,
                x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left),
              ),
            ),
          )
        }
      >
        {LANES.map(([key, label, unit], lane) => {
          const most = Math.max(...found.plans.flatMap((plan) => plan[key]), 1e-6);
          const y = scaleLinear()
            .domain([0, most * 1.06])
            .range([(lane + 1) * TALL - 4, lane * TALL + 8]);
          return (
            <g key={key} data-lane={key}>
              <line
                x1={0}
                x2={width}
                y1={(lane + 1) * TALL}
                y2={(lane + 1) * TALL}
                stroke={HAIRLINE}
              />
              <text x={2} y={lane * TALL + 20} fontSize="13" fontWeight="600">
                {label}
              </text>
              <text x={2} y={lane * TALL + 34} fontSize="12" fill={INK_3}>
                {unit}
              </text>
              <text x={LEFT - 4} y={y(most) + 4} fontSize="12" fill={INK_3} textAnchor="end">
                {plain(Number(most.toPrecision(3)))}
              </text>
              {found.plans.map((plan, k) => (
                <path
                  key={plan.version}
                  d={stairs(plan.tops_mm, plan[key], x, y)}
                  fill="none"
                  stroke={MARKS[k]?.colour}
                  strokeDasharray={MARKS[k]?.dash}
                  strokeWidth={k ? 1.6 : 1.3}
                >
                  <title>{titleOf(plan)}</title>
                </path>
              ))}
              {found.plans.map((plan, k) => (
                <text
                  key={plan.version}
                  x={2 + (k % 2) * 54}
                  y={lane * TALL + 50 + 13 * Math.floor(k / 2)}
                  fontSize="12"
                  fill={MARKS[k]?.colour}
                >
                  {plain(Number((plan[key][at(plan)] ?? 0).toPrecision(3)))}
                </text>
              ))}
            </g>
          );
        })}
        {x.ticks(10).map((tick) => (
          <text
            key={tick}
            x={x(tick)}
            y={height - 8}
            fontSize="12"
            fill={INK_3}
            textAnchor="middle"
          >
            {tick}
          </text>
        ))}
        <text x={2} y={height - 8} fontSize="12" fill={INK_3}>
          height mm
        </text>
        <line x1={x(z)} x2={x(z)} y1={0} y2={height - 22} stroke={SHEET} strokeWidth="4" />
        <line x1={x(z)} x2={x(z)} y1={0} y2={height - 22} stroke={NORTH} strokeWidth="1.8" />
      </svg>
    </div>
  );
}

/** A stepped line through layers. */
function stairs(
  tops: readonly number[],
  values: readonly number[],
  x: (v: number) => number,
  y: (v: number) => number,
): string {
  let from = 0;
  return tops
    .map((top, k) => {
      const [a, b, h] = [x(from).toFixed(1), x(top).toFixed(1), y(values[k] ?? 0).toFixed(1)];
      from = top;
      return `${k ? "L" : "M"}${a} ${h}H${b}`;
    })
    .join("");
}
