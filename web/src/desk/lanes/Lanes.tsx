import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from "react";

import { span } from "../../format";
import { FJORD, HAIRLINE, INK, INK_3, NORTH, SHEET } from "../../tokens";
import { silhouette, type Toolpath } from "../toolpath";
import type { Cursor } from "../useCursor";
import type { Figures } from "../useDesk";
import { CursorBar } from "./CursorBar";
import { HeightLane } from "./HeightLane";
import { LayerTable } from "./LayerTable";
import { type Axis, layerAt, laneScale } from "./scale";
import { ValueLane } from "./ValueLane";

const LEFT = 118;
const ROWS = { part: [4, 40], height: [50, 62], time: [118, 44] } as const;
const BOTTOM = 166;

export interface LaneFacts {
  least: number;
  greatest: number;
  leastTime: number;
  line: string;
}

/** The height lanes: the part on its side, bed left and top right, and what happens at every height. */
export function Lanes({ figures, path, cursor, facts }: { figures: Figures; path: Toolpath | undefined; cursor: Cursor; facts: LaneFacts }) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  const [axis, setAxis] = useState<Axis>("height");
  const [hover, setHover] = useState<number | null>(null);
  const [table, setTable] = useState(false);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setWidth(element.clientWidth));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const { tops_mm: tops, heights_mm: heights, seconds } = figures.layers;
  const scale = useMemo(() => laneScale(axis, tops, seconds, LEFT, width - 14), [axis, tops, seconds, width]);
  const outline = useMemo(() => (path && path.layerStart.length - 1 === tops.length ? silhouette(path) : null), [path, tops.length]);
  useWheel(box, cursor);

  const point = (event: PointerEvent<SVGSVGElement>) => layerAt(scale, event.clientX - event.currentTarget.getBoundingClientRect().left);
  const at = (k: number) => (scale.x(scale.edges[k] ?? 0) + scale.x(scale.edges[k + 1] ?? 0)) / 2;
  const layer = Math.min(cursor.layer, tops.length - 1);
  const mark = figures.state === "quick" ? "≈ " : "";
  const shown = hover ?? layer;
  const flag = `${(tops[layer] ?? 0).toFixed(2)} mm · layer ${layer + 1}`;
  const flagWidth = flag.length * 6.2 + 12;
  const flagX = Math.min(Math.max(at(layer) - flagWidth / 2, LEFT), width - flagWidth - 4);
  return (
    <section aria-label="Height lanes" className="flex min-h-0 flex-col border-t border-ink bg-sheet">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 px-3 pt-1.5">
        <h2 className="font-semibold">Height lanes</h2>
        <CursorBar cursor={cursor} tops={tops} path={path} />
        <p className="text-[13px] text-ink-2" aria-live="off">
          layer {shown + 1}: {(heights[shown] ?? 0).toFixed(2)} mm tall, top at {(tops[shown] ?? 0).toFixed(2)} mm, {mark}{span(seconds[shown] ?? 0)}
        </p>
        <button className="quiet ml-auto" onClick={() => setTable(true)}>Table …</button>
      </div>
      <div ref={box} className="relative min-h-0 flex-1">
        <svg role="slider" tabIndex={0} aria-label="Cursor along the height" aria-valuemin={1} aria-valuemax={tops.length} aria-valuenow={layer + 1}
          aria-valuetext={`layer ${layer + 1}, ${(tops[layer] ?? 0).toFixed(2)} mm`} width={width} height={BOTTOM + 44} className="narrow block touch-none select-none"
          onKeyDown={(event) => keys(event, cursor, layer)}
          onPointerDown={(event) => { event.currentTarget.setPointerCapture(event.pointerId); cursor.go(point(event)); }}
          onPointerMove={(event) => { const k = point(event); setHover(k); if (event.buttons & 1) cursor.go(k); }}
          onPointerLeave={() => setHover(null)}>
          {Object.entries(ROWS).map(([name, [y, tall]]) => <line key={name} x1={8} x2={width - 8} y1={y + tall + 4} y2={y + tall + 4} stroke={HAIRLINE} />)}
          <Label y={ROWS.part[0] + 16} name="Part" unit="bed left, top right" />
          <Label y={ROWS.height[0] + 20} name="Layer height" unit="mm" />
          <Label y={ROWS.time[0] + 16} name="Time a layer" unit="s" />
          {outline && <Side scale={scale} outline={outline} y={ROWS.part[0]} tall={ROWS.part[1]} />}
          {!outline && <text x={LEFT + 6} y={ROWS.part[0] + 24} fontSize="12" fill={INK_3}>drawn with the exact plan</text>}
          <HeightLane scale={scale} heights={heights} least={facts.least} greatest={facts.greatest} y={ROWS.height[0]} tall={ROWS.height[1]} />
          <ValueLane scale={scale} values={seconds} colour={FJORD} y={ROWS.time[0]} tall={ROWS.time[1]} format={(v) => v.toFixed(0)}
            guide={{ value: facts.leastTime, label: `least ${facts.leastTime} s` }} />
          <text x={8} y={BOTTOM + 18} fontSize="12" fill={INK_3}>{facts.line}</text>
          {scale.x.ticks(10).map((tick) => (
            <text key={tick} x={scale.x(tick)} y={BOTTOM + 38} fontSize="12" fill={INK_3} textAnchor="middle">{tick}</text>
          ))}
          {hover !== null && hover !== layer && <line x1={at(hover)} x2={at(hover)} y1={2} y2={BOTTOM} stroke={INK_3} strokeDasharray="2 2" />}
          <line x1={at(layer)} x2={at(layer)} y1={0} y2={BOTTOM + 24} stroke={SHEET} strokeWidth="4" />
          <line x1={at(layer)} x2={at(layer)} y1={0} y2={BOTTOM + 24} stroke={NORTH} strokeWidth="2" />
          <rect x={flagX} y={BOTTOM + 23} width={flagWidth} height={18} fill={NORTH} />
          <text x={flagX + flagWidth / 2} y={BOTTOM + 36} fontSize="12" fill={SHEET} textAnchor="middle">{flag}</text>
        </svg>
        <button className="narrow absolute bottom-0 left-1 cursor-pointer border-0 bg-transparent px-1 text-[12px] text-ink-2 underline" onClick={() => setAxis(axis === "height" ? "time" : "height")}>
          {axis === "height" ? "height mm ⇄ time" : "time min ⇄ height"}
        </button>
      </div>
      {table && <LayerTable figures={figures} onClose={() => setTable(false)} onGo={cursor.go} />}
    </section>
  );
}

/** The wheel over the lanes moves the cursor; React's own wheel handler cannot keep the page still. */
function useWheel(box: React.RefObject<HTMLDivElement | null>, cursor: Cursor) {
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      cursor.go(cursor.layer - Math.sign(event.deltaY) * (event.shiftKey ? 10 : 1));
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [box, cursor]);
}

function keys(event: KeyboardEvent, cursor: Cursor, layer: number) {
  const by: Record<string, number> = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10, Home: -1e9, End: 1e9 };
  if (event.key === " ") {
    event.preventDefault();
    cursor.toggle();
    return;
  }
  const step = by[event.key];
  if (step === undefined) return;
  event.preventDefault();
  cursor.go(layer + step);
}

function Label({ y, name, unit }: { y: number; name: string; unit: string }) {
  return (
    <>
      <text x={8} y={y} fontSize="13" fontWeight="600" fill={INK}>{name}</text>
      <text x={8} y={y + 14} fontSize="12" fill={INK_3}>{unit}</text>
    </>
  );
}

function Side({ scale, outline, y, tall }: { scale: ReturnType<typeof laneScale>; outline: { low: Float32Array; high: Float32Array }; y: number; tall: number }) {
  const known = [...outline.low.keys()].filter((k) => Number.isFinite(outline.low[k] ?? Infinity));
  const low = Math.min(...known.map((k) => outline.low[k] ?? 0));
  const high = Math.max(...known.map((k) => outline.high[k] ?? 0));
  const up = (v: number) => y + tall - ((v - low) / Math.max(high - low, 1e-6)) * tall;
  const there = known.flatMap((k) => [`${scale.x(scale.edges[k] ?? 0).toFixed(1)} ${up(outline.high[k] ?? 0).toFixed(1)}`, `${scale.x(scale.edges[k + 1] ?? 0).toFixed(1)} ${up(outline.high[k] ?? 0).toFixed(1)}`]);
  const back = known.reverse().flatMap((k) => [`${scale.x(scale.edges[k + 1] ?? 0).toFixed(1)} ${up(outline.low[k] ?? 0).toFixed(1)}`, `${scale.x(scale.edges[k] ?? 0).toFixed(1)} ${up(outline.low[k] ?? 0).toFixed(1)}`]);
  return <path d={`M${[...there, ...back].join("L")}Z`} fill="#EDE6D3" stroke={INK} strokeWidth="1" />;
}
