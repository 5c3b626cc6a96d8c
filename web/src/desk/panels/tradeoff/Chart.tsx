import { scaleLinear } from "d3-scale";
import { type KeyboardEvent, type PointerEvent, useMemo, useState } from "react";

import type { Frontier } from "../../../api/client";
import { distinct, hours, minutesOn, span } from "../../../format";
import { useSize } from "../../../frame/useSize";
import { FJORD, HAIRLINE, INK, INK_3, NORTH, SHEET } from "../../../tokens";
import { hullOf, MEASURES, type Measure } from "./frontier";

export interface Kept {
  label: string;
  seconds: number;
  error: number;
  baseline: boolean;
}

/** The handle: where the plan is, and the one of the two values that is asked for. */
export interface Target {
  seconds: number;
  error: number;
  ask: "target" | "cap";
  /** The value asked for: µm or minutes; null while heights are even. */
  value: number | null;
  mark: string;
}

/** A proposed change: from where the plan is to where it would be, as seconds and µm. */
export interface Arrow {
  from: [number, number];
  to: [number, number];
  label: string;
}

interface Place {
  minutes: number;
  error: number;
}

const NO_ARROWS: Arrow[] = [];
const PAD = { left: 44, right: 16, top: 24, bottom: 34 };
const LABELLED = [0.28, 0.2, 0.16, 0.12, 0.1, 0.08, 0.4, 0.3, 0.24, 0.6];

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
  /** Where the hand holds the handle, while it does. */
  const [held, setHeld] = useState<Place | null>(null);
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
  /** Minutes the chart is wide. */
  const spread = (x.domain()[1] ?? 0) - (x.domain()[0] ?? 0);
  const at = (event: PointerEvent<SVGElement>): Place => {
    const bounds = (
      event.currentTarget.ownerSVGElement ?? (event.currentTarget as unknown as SVGSVGElement)
    ).getBoundingClientRect();
    return {
      minutes: Math.max(1, x.invert(event.clientX - bounds.left)),
      error: Math.max(1, y.invert(event.clientY - bounds.top)),
    };
  };
  const line = (points: { time_s: number }[], value: (p: never) => number) =>
    points
      .map(
        (p, k) =>
          `${k ? "L" : "M"}${x(p.time_s / 60).toFixed(1)} ${y(value(p as never)).toFixed(1)}`,
      )
      .join("");
  const error = (p: { mean_um: number; p95_um: number; max_um: number }) => p[key];
  const shown = frontier.even.filter((p) => x(p.time_s / 60) < width - PAD.right);
  const labelled = spaced(
    shown
      .filter((p) => LABELLED.includes(p.layer_height))
      .map((p) => ({ p, px: x(p.time_s / 60), py: y(p[key]) })),
  );
  const hx = x(
    target.ask === "cap" && target.value !== null ? target.value : target.seconds / 60,
  );
  const hy = y(target.ask === "target" && target.value !== null ? target.value : target.error);
  const words =
    target.value === null
      ? "drag to set a target"
      : target.ask === "target"
        ? `target ${Math.round(target.value)} µm`
        : `within ${hours(60 * target.value)} h`;
  const result =
    `${target.mark}${Math.round(target.error)} µm · ` +
    `${target.mark}${hours(target.seconds)} h`;
  const tag = 8 + 6.4 * Math.max(words.length, result.length);
  const drawn = frontier.points.map((p): Spot => [x(p.time_s / 60), y(p[key])]);
  const [tagX, tagY] = freest(
    [hx, hy],
    [tag, 36],
    [PAD.left, width - 4, PAD.top, height - PAD.bottom - 2],
    [
      ...along(drawn),
      ...shown.map((p): Spot => [x(p.time_s / 60), y(p[key])]),
      ...labelled.flatMap(({ px, py }) => alongLabel(px > width - 72 ? px - 62 : px, py - 9)),
      ...kept.flatMap((p) => alongLabel(x(p.seconds / 60), y(p.error) + 8)),
      ...arrows.map((arrow): Spot => [x(arrow.to[0] / 60), y(arrow.to[1])]),
    ],
  );
  const nudge = (event: KeyboardEvent) => {
    // more time is to the right, more error up: for a target the two point opposite ways
    const by = {
      ArrowUp: 1,
      ArrowRight: target.ask === "target" ? -1 : 1,
      ArrowDown: -1,
      ArrowLeft: target.ask === "target" ? 1 : -1,
    }[event.key];
    if (!by) return;
    event.preventDefault();
    const next = (now: number) =>
      Math.max(1, Math.round(target.value ?? now) + by * (event.shiftKey ? 10 : 1));
    const [minutes, error] = [target.seconds / 60, target.error];
    onSettle(
      target.ask === "target"
        ? { minutes, error: next(error) }
        : { minutes: next(minutes), error },
    );
  };
  const letGo = () => {
    if (held) onSettle(held);
    setHeld(null);
    setTaken(null);
  };
  return (
    <div ref={box} className="absolute inset-x-1 inset-y-0">
      <svg
        width={width}
        height={height}
        className="narrow block touch-none select-none"
        role="group"
        aria-label={`Trade-off: print time against ${MEASURES[measure].long}`}
      >
        {distinct(x.ticks(6), minutesOn(spread)).map(([t, word]) => (
          <g key={t}>
            <line
              x1={x(t)}
              x2={x(t)}
              y1={PAD.top}
              y2={height - PAD.bottom}
              stroke={HAIRLINE}
            />
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
          {MEASURES[measure].long} (µm)
        </text>
        <text x={width - PAD.right} y={height - 5} fontSize="12" fill={INK_3} textAnchor="end">
          print time ({spread < 6 ? "h:min:s" : "h:min"})
        </text>
        <path d={line(shown, error)} fill="none" stroke={INK_3} strokeDasharray="5 4" />
        {shown.map((p) => (
          <circle
            key={p.layer_height}
            cx={x(p.time_s / 60)}
            cy={y(p[key])}
            r={2.6}
            fill={SHEET}
            stroke={INK_3}
          >
            <title>
              {`even ${p.layer_height} mm: ${Math.round(p[key])} µm, ` +
                `${hours(p.time_s)} ` +
                `h${p.breaks.length ? `; breaks ${p.breaks.join(", ")}` : ""}`}
            </title>
          </circle>
        ))}
        {labelled.map(({ p, px, py }) => (
          <text
            key={p.layer_height}
            x={px + (px > width - 72 ? -6 : 6)}
            y={py - 5}
            fontSize="12"
            fill={INK_3}
            textAnchor={px > width - 72 ? "end" : "start"}
          >
            even {p.layer_height.toFixed(2)}
          </text>
        ))}
        <FrontierLine
          whole={whole}
          points={drawn}
          lowest={height - PAD.bottom - 5}
          line={line(whole ? frontier.points : hullOf(frontier.points, error), error)}
        />
        {kept.map((p) => (
          <g key={p.label} transform={`translate(${x(p.seconds / 60)} ${y(p.error)})`}>
            <path
              d="M0 -6L6 0L0 6L-6 0Z"
              fill={p.baseline ? INK : SHEET}
              stroke={INK}
              strokeWidth="1.4"
            >
              <title>{`${p.label}: ${Math.round(p.error)} µm, ${hours(p.seconds)} h`}</title>
            </path>
            <text
              x={9}
              y={13}
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
        <path
          d={
            target.ask === "target"
              ? `M${PAD.left} ${hy}H${hx}`
              : `M${hx} ${height - PAD.bottom}V${hy}`
          }
          stroke={NORTH}
          strokeDasharray="2 3"
        />
        <g aria-hidden>
          <rect x={tagX} y={tagY} width={tag} height={36} fill={SHEET} stroke={NORTH} />
          <text x={tagX + 5} y={tagY + 15} fontSize="12" fontWeight="600" fill={NORTH}>
            {words}
          </text>
          <text x={tagX + 5} y={tagY + 30} fontSize="12" fill={INK}>
            {result}
          </text>
        </g>
        <g
          role="slider"
          tabIndex={0}
          data-handle="target"
          aria-label={
            target.ask === "target" ? "Surface target on the chart" : "Time cap on the chart"
          }
          className="cursor-grab"
          aria-valuenow={Math.round(
            target.value ?? (target.ask === "target" ? target.error : target.seconds / 60),
          )}
          aria-valuetext={`${words}, ${result}`}
          onKeyDown={nudge}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            setHeld(at(event));
            setTaken(target.seconds);
          }}
          onPointerMove={(event) => {
            if (held) {
              setHeld(at(event));
              onSlide(at(event));
            }
          }}
          onPointerUp={letGo}
          onPointerCancel={letGo}
        >
          <circle cx={hx} cy={hy} r={22} fill="transparent" />
          <circle cx={hx} cy={hy} r={9} fill={SHEET} stroke={SHEET} strokeWidth="6" />
          <circle cx={hx} cy={hy} r={8} fill={SHEET} stroke={NORTH} strokeWidth="2.5" />
          <circle cx={hx} cy={hy} r={3} fill={NORTH} />
        </g>
      </svg>
    </div>
  );
}

/** A proposed change as an arrow that ends at a small open head. */
function ArrowLine({
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

type Spot = [number, number];

/** Places along a line through some, close enough that no tag lies between two. */
function along(line: Spot[]): Spot[] {
  return line.flatMap(([px, py], k) => {
    const [qx, qy] = line[k + 1] ?? [px, py];
    const steps = Math.max(1, Math.ceil(Math.hypot(qx - px, qy - py) / 12));
    return Array.from({ length: steps }, (_, n): Spot => {
      const share = n / steps;
      return [px + share * (qx - px), py + share * (qy - py)];
    });
  });
}

/** Places along a label that begins here. */
function alongLabel(px: number, py: number): Spot[] {
  return [0, 15, 30, 45, 60].map((along) => [px + along, py]);
}

/**
 * Where a tag of a size lies beside a place within left, right, top and bottom: at the corner where
 * it covers least of what is drawn, below on the left first, because nothing is quicker and finer
 * than the frontier.
 */
function freest(
  [hx, hy]: Spot,
  [wide, tall]: Spot,
  [left, right, top, bottom]: [number, number, number, number],
  drawn: Spot[],
): Spot {
  const clamped = (v: number, low: number, high: number) => Math.max(low, Math.min(v, high));
  const corners = [
    [hx - 18 - wide, hy + 10],
    [hx - 18 - wide, hy - 10 - tall],
    [hx + 18, hy - 10 - tall],
    [hx + 18, hy + 10],
  ].map(([tx, ty]): Spot => [
    clamped(tx ?? 0, left, right - wide),
    clamped(ty ?? 0, top, bottom - tall),
  ]);
  const covered = ([tx, ty]: Spot) =>
    [...drawn, [hx, hy] as Spot].filter(
      ([px, py]) => px > tx - 3 && px < tx + wide + 3 && py > ty - 3 && py < ty + tall + 3,
    ).length;
  return corners.reduce((best, one) => (covered(one) < covered(best) ? one : best));
}

/** Labels that keep their distance. */
function spaced<T extends { px: number; py: number }>(labels: T[]): T[] {
  const out: T[] = [];
  for (const label of labels)
    if (
      out.every(
        (other) => Math.abs(other.px - label.px) > 58 || Math.abs(other.py - label.py) > 14,
      )
    )
      out.push(label);
  return out;
}

/**
 * The frontier as far as it is solved: a line where it is, else the points alone and the hull
 * between them.
 */
function FrontierLine({
  whole,
  points,
  line,
  lowest,
}: {
  whole: boolean;
  points: [number, number][];
  line: string;
  /** Where its name may stand at the lowest, above the ticks. */
  lowest: number;
}) {
  // at its slow end, below which nothing lies
  const at = points.at(-1);
  return (
    <g data-curve={whole ? "frontier" : "hull"}>
      <path
        d={line}
        fill="none"
        stroke={FJORD}
        strokeWidth={whole ? 2 : 1}
        strokeDasharray={whole ? undefined : "2 4"}
      />
      {!whole &&
        points.map(([px, py]) => (
          <circle key={`${px} ${py}`} cx={px} cy={py} r="3" fill={FJORD} />
        ))}
      {at && (
        <text
          x={Math.max(at[0], PAD.left + 72)}
          y={Math.min(at[1] + 18, lowest)}
          fontSize="12"
          fill={FJORD}
          textAnchor="end"
          stroke={SHEET}
          strokeWidth="3"
          paintOrder="stroke"
        >
          {whole ? "frontier" : "solved so far"}
        </text>
      )}
    </g>
  );
}
