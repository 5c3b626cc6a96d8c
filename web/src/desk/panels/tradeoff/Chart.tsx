import { scaleLinear } from "d3-scale";
import { useMemo, useState } from "react";

import type { Frontier } from "../../../api/client";
import { hours } from "../../../format";
import { useSize } from "../../../frame/useSize";
import { INK, SHEET } from "../../../tokens";
import { type Arrow, ArrowLine } from "./ArrowLine";
import { Axes } from "./Axes";
import { Evens, labelsOf } from "./Evens";
import { hullOf, MEASURES, type Measure } from "./frontier";
import { FrontierLine } from "./FrontierLine";
import { Handle, type Place, type Target } from "./Handle";
import { along, alongLabel, around, freest, PAD, pathOf, type Spot } from "./spots";

export interface Kept {
  label: string;
  seconds: number;
  error: number;
  baseline: boolean;
}

const NO_ARROWS: Arrow[] = [];

/**
 * Time against surface error: the frontier, the even stacks, kept plans, and the target as a handle
 * that is dragged.
 */
export function Chart({
  frontier,
  whole,
  measure,
  kept,
  target,
  arrows = NO_ARROWS,
  onSlide,
  onSettle,
}: {
  frontier: Frontier;
  /** Whether it is solved along its length, so that a line through its points holds. */
  whole: boolean;
  measure: Measure;
  kept: Kept[];
  target: Target;
  arrows?: Arrow[];
  onSlide: (at: Place) => void;
  onSettle: (at: Place) => void;
}) {
  const [box, width, height] = useSize(440, 260);
  // the plan itself is always on the chart, which stands still while it is dragged
  const [taken, setTaken] = useState<number | null>(null);
  const here = taken ?? target.seconds;
  const key = MEASURES[measure].key;
  const { x, y } = useMemo(() => {
    const all = [...frontier.points, ...frontier.even].map(
      (p) => [p.time_s / 60, p[key]] as const,
    );
    const seconds = all.map(([t]) => t);
    const slowest =
      Math.max(
        ...frontier.points.map((p) => p.time_s / 60),
        ...kept.map((p) => p.seconds / 60),
        here / 60,
      ) * 1.06;
    const from = Math.min(here / 60, ...seconds, ...arrows.map((arrow) => arrow.to[0] / 60));
    return {
      x: scaleLinear()
        .domain([from - (slowest - from) * 0.05, slowest])
        .range([PAD.left, width - PAD.right]),
      y: scaleLinear()
        .domain([0, Math.max(10, ...all.map(([, e]) => e)) * 1.06])
        .range([height - PAD.bottom, PAD.top]),
    };
  }, [frontier, kept, arrows, here, key, width, height]);
  const error = (p: { mean_um: number; p95_um: number; max_um: number }) => p[key];
  const spot = (p: {
    time_s: number;
    mean_um: number;
    p95_um: number;
    max_um: number;
  }): Spot => [x(p.time_s / 60), y(error(p))];
  const evens = frontier.even
    .map((p) => ({ p, at: spot(p) }))
    .filter(({ at: [px] }) => px < width - PAD.right);
  const drawn = frontier.points.map(spot);
  const handle: Spot = [x(target.seconds / 60), y(target.error)];
  const line = [...along(drawn), ...along(evens.map((one) => one.at)), ...around(handle)];
  const named = kept.map((p) => {
    const at: Spot = [x(p.seconds / 60), y(p.error)];
    const room: Spot = [6.2 * p.label.length, 14];
    const within = [PAD.left, width - PAD.right, PAD.top, height - PAD.bottom] as const;
    return {
      p,
      at,
      label: freest(at, room, [...within], [...line, ...labelsOf(evens, handle, width)], 9),
    };
  });
  return (
    <div ref={box} className="absolute inset-x-1 inset-y-0">
      <svg
        width={width}
        height={height}
        className="narrow block touch-none select-none"
        role="group"
        aria-label={`Trade-off: print time against ${MEASURES[measure].long}`}
      >
        <Axes x={x} y={y} width={width} height={height} error={MEASURES[measure].long} />
        <Evens shown={evens} handle={handle} width={width} error={error} />
        <FrontierLine
          whole={whole}
          points={drawn}
          lowest={height - PAD.bottom - 5}
          line={pathOf(whole ? drawn : hullOf(frontier.points, error).map(spot))}
        />
        {named.map(({ p, at, label }) => (
          <g key={p.label} transform={`translate(${at[0]} ${at[1]})`}>
            <path
              d="M0 -6L6 0L0 6L-6 0Z"
              fill={p.baseline ? INK : SHEET}
              stroke={INK}
              strokeWidth="1.4"
            >
              <title>{`${p.label}: ${Math.round(p.error)} µm, ${hours(p.seconds)} h`}</title>
            </path>
            <text
              x={label[0] - at[0]}
              y={label[1] - at[1] + 11}
              fontSize="12"
              fill={INK}
              stroke={SHEET}
              strokeWidth="3"
              paintOrder="stroke"
            >
              {p.label}
            </text>
          </g>
        ))}
        {arrows.map((arrow, k) => (
          <ArrowLine
            key={`${arrow.label} ${arrow.to[0]}`}
            arrow={arrow}
            lower={k}
            x={(s) => Math.max(PAD.left, x(s / 60))}
            y={y}
          />
        ))}
        <Handle
          target={target}
          x={x}
          y={y}
          width={width}
          height={height}
          drawn={[
            ...along(drawn),
            ...evens.map((one) => one.at),
            ...labelsOf(evens, handle, width),
            ...named.flatMap(({ label }) => alongLabel(label[0], label[1] + 7)),
            ...arrows.map((arrow): Spot => [x(arrow.to[0] / 60), y(arrow.to[1])]),
          ]}
          onTake={(held) => setTaken(held ? target.seconds : null)}
          onSlide={onSlide}
          onSettle={onSettle}
        />
      </svg>
    </div>
  );
}
