import { clsx } from "clsx";
import { useMemo, useRef, useState, type PointerEvent } from "react";

import { beyond, boxOf, moved, path, room, roomOfBoxes, type Point } from "./geometry";
import { Kept } from "../workshop/PlateMap";
import { outlineOf, type BedRoom, type Placing } from "./useBed";

/** Grid of the map, and what a dragged placing snaps to (mm). */
const GRID = 10;
const SNAP = 1;
const AROUND = 14;

interface Drag {
  number: number;
  from: Point;
  start: Placing;
}

/**
 * The bed from above, north up: placings as outlines with their number, clearances hatched, what
 * the head sweeps for the one that is picked, keep-out places crossed out.
 */
export function BedMap({
  here,
  lit,
  head,
}: {
  here: BedRoom;
  lit: number | null;
  head: Point | null;
}) {
  const { bed, placings, spec, picked } = here;
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const rings = useMemo(
    () => (bed ? placings.map((placing) => outlineOf(bed, placing)) : []),
    [bed, placings],
  );
  if (!bed || !spec) return null;
  const plate = boxOf(bed.plate.outline[0] ?? []);
  // what lies beside the bed is seen too
  const reach = placings.map((placing, k) => {
    const own = boxOf(rings[k]?.[0] ?? [[0, 0]]);
    return {
      low: [own.low[0] + placing.x, own.low[1] + placing.y],
      high: [own.high[0] + placing.x, own.high[1] + placing.y],
    };
  });
  const low = [0, 1].map((axis) =>
    Math.min(plate.low[axis] ?? 0, ...reach.map((box) => box.low[axis] ?? 0)),
  );
  const high = [0, 1].map((axis) =>
    Math.max(plate.high[axis] ?? 0, ...reach.map((box) => box.high[axis] ?? 0)),
  );
  const [x0 = 0, y0 = 0] = low;
  const [x1 = 0, y1 = 0] = high;
  const view = `${x0 - AROUND} ${-y1 - AROUND} ${x1 - x0 + 2 * AROUND} ${y1 - y0 + 2 * AROUND}`;
  const place = (event: PointerEvent): Point => {
    const matrix = svg.current?.getScreenCTM();
    if (!matrix) return [0, 0];
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    return [at.x, -at.y];
  };
  const put = (number: number, changes: Partial<Placing>) =>
    placings.map((placing, k) => (k === number ? { ...placing, ...changes } : placing));
  const onMove = (event: PointerEvent) => {
    if (!drag) return;
    const [x, y] = place(event);
    const step = event.shiftKey ? 0.01 : SNAP;
    const snap = (v: number) => Number((Math.round(v / step) * step).toFixed(3));
    here.show(
      put(drag.number, {
        x: snap(drag.start.x + x - drag.from[0]),
        y: snap(drag.start.y + y - drag.from[1]),
      }),
    );
  };
  const onUp = () => {
    if (!drag) return;
    setDrag(null);
    const now = placings[drag.number];
    if (now && (now.x !== drag.start.x || now.y !== drag.start.y)) here.put([...placings]);
  };
  const near = picked === null ? null : nearest(placings, rings, picked, bed.plate.outline[0]);
  const shape = picked === null ? undefined : placings[picked];
  const known = bed.version.outlines ?? bed.exact?.outlines ?? {};
  const sweeps =
    shape && spec.way !== "together"
      ? (known[`${shape.plan} ${shape.turn}`]?.sweeps ?? []).filter((s) => s.name !== "Nozzle")
      : [];
  const bad =
    near !== null && (near.beyond > 0.01 || near.room < (spec.clearance ?? 4) - 0.01);
  return (
    <svg
      ref={svg}
      viewBox={view}
      className="h-full w-full touch-none select-none"
      role="group"
      aria-label="Map of the bed"
      onPointerMove={onMove}
      onPointerUp={onUp}
      onPointerDown={(event) => event.target === svg.current && here.pick(null)}
    >
      <defs>
        <pattern id="grid" width={GRID} height={GRID} patternUnits="userSpaceOnUse">
          <path
            d={`M${GRID},0H0V${GRID}`}
            className="fill-none stroke-hairline"
            strokeWidth={0.25}
          />
        </pattern>
        <pattern
          id="clear"
          width={2.4}
          height={2.4}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <path d="M0,0V2.4" className="stroke-edge" strokeWidth={0.3} />
        </pattern>
        <clipPath id="plate">
          <path d={path(bed.plate.outline)} />
        </clipPath>
      </defs>
      <path
        d={path(bed.plate.outline)}
        className="fill-sheet stroke-ink-3"
        strokeWidth={0.6}
      />
      <path d={path(bed.plate.outline)} fill="url(#grid)" pointerEvents="none" />
      {bed.plate.keep_out.map((kept) => (
        <Kept key={kept.name} kept={kept} size={4.5} />
      ))}
      <g clipPath="url(#plate)" pointerEvents="none">
        {shape &&
          sweeps.map((sweep, k) => (
            <path
              key={k}
              d={path(sweep.outline)}
              transform={`translate(${shape.x} ${-shape.y})`}
              className="fill-fjord/10 stroke-fjord"
              strokeWidth={0.4}
              strokeDasharray="2 1.5"
            >
              <title>
                {`${sweep.name}: what is taller than ${sweep.over_mm.toFixed(1)} mm is hit here`}
              </title>
            </path>
          ))}
      </g>
      {placings.map((placing, k) => {
        const own = rings[k] ?? [];
        const wrong = here.bed?.version.beside.includes(k + 1);
        return (
          <g
            key={k}
            data-placing={k + 1}
            transform={`translate(${placing.x} ${-placing.y})`}
            role="button"
            tabIndex={0}
            aria-pressed={picked === k}
            aria-label={
              `Placing ${k + 1}, ${nameOf(here, placing)}, ` +
              `x ${placing.x}, y ${placing.y}, turned ${placing.turn}°`
            }
            className={clsx(
              "outline-none",
              placing.locked ? "cursor-not-allowed" : "cursor-move",
            )}
            onFocus={() => here.pick(k)}
            onPointerDown={(event) => {
              here.pick(k);
              if (placing.locked) return;
              svg.current?.setPointerCapture(event.pointerId);
              setDrag({ number: k, from: place(event), start: placing });
            }}
            onKeyDown={(event) => {
              const changes = byKey(event.key, event.shiftKey, placing);
              if (!changes || placing.locked) return;
              event.preventDefault();
              here.put(put(k, changes));
            }}
          >
            <path
              d={path(own)}
              fill="none"
              stroke="url(#clear)"
              strokeWidth={2 * (spec.clearance ?? 4)}
              strokeLinejoin="round"
              pointerEvents="none"
              opacity={picked === k ? 0.9 : 0.35}
            />
            <path
              d={path(own)}
              fillRule="evenodd"
              className={clsx(
                picked === k ? (bad ? "fill-stop/15" : "fill-fjord/20") : "fill-sand",
                wrong || (picked === k && bad) ? "stroke-stop" : "stroke-ink",
                lit === k && "fill-north/30",
              )}
              strokeWidth={picked === k ? 0.9 : 0.5}
            />
            <text
              textAnchor="middle"
              dominantBaseline="central"
              className="narrow fill-ink font-semibold"
              fontSize={7}
              pointerEvents="none"
            >
              {k + 1}
              {placing.locked ? " ⚿" : ""}
            </text>
          </g>
        );
      })}
      {shape && near && (
        <text
          x={shape.x}
          y={-shape.y + 9}
          textAnchor="middle"
          fontSize={5}
          pointerEvents="none"
          paintOrder="stroke"
          strokeWidth={1.6}
          className={clsx("narrow stroke-sheet", bad ? "fill-stop" : "fill-ink")}
        >
          {near.beyond > 0.01
            ? `${near.beyond.toFixed(1)} mm beyond the bed`
            : near.to === null
              ? ""
              : near.room === 0
                ? `on ${near.to + 1}`
                : `${near.room.toFixed(1)} mm to ${near.to + 1}`}
        </text>
      )}
      {head && (
        <g
          transform={`translate(${head[0]} ${-head[1]})`}
          className="fill-none stroke-north"
          strokeWidth={0.8}
          pointerEvents="none"
          data-head
        >
          <circle r={3} />
          <path d="M-5,0H5M0,-5V5" />
        </g>
      )}
      <text x={x0} y={-y0 + 9} fontSize={5} className="narrow fill-ink-3">
        grid {GRID} mm · front
      </text>
    </svg>
  );
}

/** What a key does to a placing. */
function byKey(key: string, fine: boolean, { x, y, turn }: Placing): Partial<Placing> | null {
  const step = fine ? 0.1 : 1;
  const to = (v: number) => Number(v.toFixed(3));
  switch (key) {
    case "ArrowLeft":
      return { x: to(x - step) };
    case "ArrowRight":
      return { x: to(x + step) };
    case "ArrowUp":
      return { y: to(y + step) };
    case "ArrowDown":
      return { y: to(y - step) };
    case "[":
      return { turn: (turn + 15) % 360 };
    case "]":
      return { turn: (turn + 345) % 360 };
    default:
      return null;
  }
}

export function nameOf({ bed }: BedRoom, placing: Placing): string {
  return bed?.pins.find((pin) => pin.key === placing.plan)?.part ?? "a plan";
}

/** The nearest other placing to one, and how far it reaches beyond the bed. */
function nearest(
  placings: Placing[],
  rings: Point[][][],
  picked: number,
  plate: readonly (readonly number[])[] | undefined,
) {
  const own = placings[picked];
  const ring = rings[picked]?.[0];
  if (!own || !ring) return null;
  const here = moved(ring, own.x, own.y);
  const box = boxOf(here);
  let least = Infinity;
  let to: number | null = null;
  for (const [k, placing] of placings.entries()) {
    const other = rings[k]?.[0];
    if (k === picked || !other) continue;
    const there = moved(other, placing.x, placing.y);
    if (roomOfBoxes(box, boxOf(there)) >= least) continue;
    const open = room(here, there);
    if (open < least) [least, to] = [open, k];
  }
  return { room: least, to, beyond: beyond(here, moved(plate ?? [], 0, 0)) };
}
