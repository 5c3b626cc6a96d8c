import { clsx } from "clsx";
import { scaleTime } from "d3-scale";
import { useMemo } from "react";
import { Link } from "react-router";

import { useSize } from "../frame/useSize";
import type { ScheduledBed, Timetable } from "./useOrderBook";
import { clock, moment } from "./words";

const NAMES = 110;
const ROW = 40;
const AXIS = 30;
const HOUR = 3600_000;
const BAR = "absolute block overflow-hidden px-1 text-[12px] whitespace-nowrap";

/** Machines along the clock: what is on them, what waits, and what is scheduled for orders. */
export function Clock({
  table,
  days,
  chosen,
  order,
  late,
  onChoose,
}: {
  table: Timetable;
  days: number;
  chosen: ScheduledBed | null;
  /** The order that is looked at; its bars stand out. */
  order: number | null;
  /** Orders that are late. */
  late: ReadonlySet<number>;
  onChoose: (bed: ScheduledBed) => void;
}) {
  const [box, width] = useSize(1000, 100);
  const begin = new Date(table.now).getTime();
  const end = begin + days * 24 * HOUR;
  const x = scaleTime([begin, end], [NAMES, Math.max(width, NAMES + 200)]);
  const at = (iso: string) => x(Math.min(new Date(iso).getTime(), end));
  const height = AXIS + table.machines.length * ROW;
  const marks = useMemo(() => ticks(begin, end, table.zone), [begin, end, table.zone]);
  const within = (one: { begin: string; end: string }) =>
    new Date(one.begin).getTime() < end && new Date(one.end).getTime() > begin;
  return (
    <div ref={box} className="relative" style={{ height }}>
      <svg width={width} height={height} className="absolute inset-0" aria-hidden>
        <defs>
          <pattern id="nobody" width="6" height="6" patternUnits="userSpaceOnUse">
            <path d="M0 6 L6 0" stroke="var(--color-edge)" strokeWidth="0.7" opacity="0.7" />
          </pattern>
        </defs>
        {nights(table, begin, end).map(([from, to]) => (
          <rect
            key={from}
            x={x(from)}
            y={AXIS}
            width={Math.max(x(to) - x(from), 0)}
            height={height - AXIS}
            fill="url(#nobody)"
          />
        ))}
        {marks.map(({ time, day, words }) => (
          <g key={time}>
            <line
              x1={x(time)}
              x2={x(time)}
              y1={day ? 2 : 18}
              y2={height}
              stroke={day ? "var(--color-edge)" : "var(--color-hairline)"}
            />
            <text
              x={x(time) + 3}
              y={day ? 12 : 26}
              className="narrow"
              fontSize="12"
              fill={day ? "var(--color-ink)" : "var(--color-ink-3)"}
            >
              {words}
            </text>
          </g>
        ))}
        {table.machines.map((machine, row) => (
          <line
            key={machine.id}
            x1={0}
            x2={width}
            y1={AXIS + row * ROW}
            y2={AXIS + row * ROW}
            stroke="var(--color-hairline)"
          />
        ))}
      </svg>
      {table.machines.map((machine, row) => (
        <div key={machine.id}>
          <p
            className="absolute left-0 truncate pr-2 text-[13px] font-semibold"
            style={{ top: AXIS + row * ROW + 4, width: NAMES }}
          >
            {machine.name}
            {(machine.why || machine.simulated !== 1) && (
              <span className="block truncate text-[12px] font-normal text-ink-2">
                {machine.why ? "▲ held" : `simulated ${machine.simulated}×`}
              </span>
            )}
          </p>
          {machine.busy.filter(within).map((one) => (
            <Link
              key={`${one.kind} ${one.id}`}
              to={one.kind === "job" ? `/jobs/${one.id}` : `/beds/${one.id}`}
              title={`${one.title}, ${stretch(one, table.zone)}`}
              className={clsx(
                `${BAR} no-underline`,
                one.running && "bg-ink text-sheet",
                !one.running && one.kind === "job" && "bg-ink-3 text-sheet",
                one.kind === "bed" && "border border-dashed border-ink bg-sheet text-ink",
              )}
              style={bar(at(one.begin), at(one.end), row)}
            >
              {one.title}
            </Link>
          ))}
          {table.beds
            .filter((bed) => bed.machine === machine.id && within(bed))
            .map((bed) => (
              <button
                key={`${bed.line} ${bed.begin} ${bed.machine}`}
                title={`${named(bed, machine.name, table.zone)}, from ${bed.spool_label}`}
                aria-label={named(bed, machine.name, table.zone)}
                aria-pressed={bed === chosen}
                onClick={() => onChoose(bed)}
                className={clsx(
                  `${BAR} border text-left`,
                  late.has(bed.order) ? "border-stop" : "border-fjord",
                  bed === chosen ? "bg-fjord text-sheet" : "bg-sheet text-ink",
                  order !== null && bed.order !== order && "opacity-40",
                )}
                style={bar(at(bed.begin), at(bed.end), row)}
              >
                {late.has(bed.order) && "◆ "}
                {bed.pieces} × {bed.part}
              </button>
            ))}
        </div>
      ))}
    </div>
  );
}

/** From when to when. */
const stretch = (one: { begin: string; end: string }, zone: string) =>
  `${moment(one.begin, zone)} to ${moment(one.end, zone)}`;

const named = (bed: ScheduledBed, machine: string, zone: string) =>
  `${bed.pieces} × ${bed.part} on ${machine}, ${stretch(bed, zone)}`;

const bar = (from: number, to: number, row: number) => ({
  left: from,
  width: Math.max(to - from - 1, 3),
  top: AXIS + row * ROW + 6,
  height: ROW - 12,
});

/** When nobody is there, in ms; nothing if somebody always is. */
function nights(table: Timetable, begin: number, end: number): [number, number][] {
  if (table.there.length === 0) return [];
  const out: [number, number][] = [];
  let from = begin;
  for (const span of table.there) {
    const comes = new Date(span.begin).getTime();
    if (comes > from) out.push([from, Math.min(comes, end)]);
    from = Math.max(from, new Date(span.end).getTime());
    if (from >= end) return out;
  }
  out.push([from, end]);
  return out;
}

/** Hours and days of the workshop's clock that have a mark. */
function ticks(begin: number, end: number, zone: string) {
  const hours = (end - begin) / HOUR;
  const step = hours <= 30 ? 3 : hours <= 80 ? 6 : hours <= 200 ? 12 : 24;
  const out: { time: number; day: boolean; words: string }[] = [];
  for (let time = Math.ceil(begin / HOUR) * HOUR; time < end; time += HOUR) {
    const iso = new Date(time).toISOString();
    const hour = Number(clock(iso, zone).slice(0, 2));
    if (hour === 0)
      out.push({ time, day: true, words: moment(iso, zone).replace(/, .*/, "") });
    else if (hour % step === 0)
      out.push({ time, day: false, words: clock(iso, zone).replace(":00", " h") });
  }
  return out;
}
