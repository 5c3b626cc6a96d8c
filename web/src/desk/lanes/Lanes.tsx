import { clsx } from "clsx";
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";

import type { Finding, Machine, Plan, Setting } from "../../api/client";
import { FJORD, HAIRLINE, INK, INK_3, NORTH, SHEET } from "../../tokens";
import { baselineName } from "../tradeoff/TradeOff";
import { bandWords, type Picked, placedBands } from "../places/places";
import type { RegionLines } from "../places/useRegionLines";
import { silhouette, type Toolpath } from "../toolpath";
import type { Cursor } from "../useCursor";
import type { Desk, Figures } from "../useDesk";
import { withSurface } from "../wanted";
import { CursorBar } from "./CursorBar";
import { DecidesLane, RulePatterns } from "./DecidesLane";
import { DifferenceLane } from "./DifferenceLane";
import { BandEditor, PinEditor } from "./Editors";
import { ErrorLane } from "./ErrorLane";
import { FindingLane } from "./FindingLane";
import { ghostLine, heightScale, HeightLane } from "./HeightLane";
import { LaneEditor } from "./LaneEditor";
import { LaneHeader, LayerSentence } from "./LaneHeader";
import { LayerTable } from "./LayerTable";
import { Lens } from "./Lens";
import { BandMarks, PinMarks, RegionSpans } from "./Marks";
import { Relax } from "./Relax";
import { type Span, spansOf } from "./rules";
import {
  type Axis,
  heightAt,
  inView,
  laneScale,
  layerAt,
  placeOf,
  type View,
  WHOLE,
} from "./scale";
import { Side } from "./Side";
import {
  type LaneName,
  SETTING_LANE,
  SETTING_LANES,
  settingRows,
  useShownLanes,
} from "./settingLanes";
import { SliceSheet } from "./SliceSheet";
import { Strip } from "./Strip";
import { useHands } from "./useHands";
import { ValueLane } from "./ValueLane";

const LEFT = 118;
const ROWS = {
  part: [30, 30],
  height: [66, 66],
  decides: [138, 17],
  error: [161, 38],
  time: [205, 26],
} as const;
const TOP = 14;
/** Where the lanes of settings begin. */
const SETTINGS_FROM = 237;

export interface LaneFacts {
  least: number;
  greatest: number;
  leastTime: number;
  zStep: number;
  /** What the lanes that are not drawn say in words, each a way to its editor. */
  folded: { lane: LaneName; words: string }[];
  /** What holds where a lane's setting is left open. */
  open: Partial<Record<LaneName, number>>;
}

/**
 * The height lanes: the part on its side, bed left and top right, and what happens at every height.
 */
export function Lanes({
  plan,
  desk,
  settings,
  figures,
  path,
  cursor,
  facts,
  machine,
  findings,
  onFinding,
  ghost,
  onGhost,
  picked,
  onPick,
  lines,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
  figures: Figures;
  path: Toolpath | undefined;
  cursor: Cursor;
  facts: LaneFacts;
  machine: Machine | undefined;
  lines: RegionLines[];
  picked: Picked;
  onPick: (picked: Picked, open?: boolean) => void;
  findings: Finding[];
  onFinding: (finding: Finding, place: readonly number[]) => void;
  ghost: boolean;
  onGhost: (on: boolean) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  const [axis, setAxis] = useState<Axis>("height");
  const [view, setView] = useState<View>(WHOLE);
  const [hover, setHover] = useState<number | null>(null);
  const [sheet, setSheet] = useState<"table" | "slice" | null>(null);
  const [span, setSpan] = useState<Span | null>(null);
  const [pinned, setPinned] = useState<number | null>(null);
  const [edited, setEdited] = useState<LaneName | null>(null);
  const values = desk.report?.lanes ?? null;
  const [drawn, onDrawn] = useShownLanes(values);
  const rows = settingRows(
    SETTING_LANES.filter((lane) => drawn(lane.name)),
    SETTINGS_FROM,
  );
  const BOTTOM = SETTINGS_FROM - 5 + rows.length * (SETTING_LANE + 6);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setWidth(element.clientWidth));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const {
    tops_mm: tops,
    heights_mm: heights,
    seconds,
    error_um: errors,
    mean_error_um: means,
    rule,
  } = figures.layers;
  const scale = useMemo(
    () => laneScale(axis, tops, seconds, LEFT, width - 14, view),
    [axis, tops, seconds, width, view],
  );
  const outline = useMemo(
    () => (path && path.layerStart.length - 1 === tops.length ? silhouette(path) : null),
    [path, tops.length],
  );
  const spans = useMemo(() => spansOf(rule), [rule]);
  const { kind, measure, ask, targetUm, stepLimit } = desk.wanted;
  const target = kind === "even" || ask === "cap" ? null : targetUm;
  const { up, down } = heightScale(facts.greatest, ...ROWS.height);
  const hands = useHands(
    desk,
    {
      at: (z) => placeOf(scale, tops, z),
      heightAt: (px) => heightAt(scale, tops, px),
      down,
      tops,
      flats: figures.surface.flats_mm,
      ...facts,
    },
    picked?.kind === "band"
      ? { kind: "band", n: picked.n }
      : pinned !== null
        ? { kind: "pin", n: pinned }
        : null,
    (next) => {
      setEdited(null);
      setPinned(next?.kind === "pin" ? next.n : null);
      onPick(next?.kind === "band" ? { kind: "band", n: next.n } : null);
    },
  );
  const bands = placedBands(hands.bands, desk);
  useWheel(box, cursor, view, setView);

  const layer = Math.min(cursor.layer, tops.length - 1);
  const shown = hover !== null && hover < tops.length ? hover : layer;
  const compared =
    plan.baseline && plan.baseline.id !== plan.latest.id ? plan.baseline.report : null;
  const showGhost = ghost && compared;
  const at = (k: number) =>
    Math.max(
      LEFT,
      Math.min(
        width - 14,
        (scale.x(scale.edges[k] ?? 0) + scale.x(scale.edges[k + 1] ?? 0)) / 2,
      ),
    );
  const flag = `${(tops[layer] ?? 0).toFixed(2)} mm · layer ${layer + 1}`;
  const flagWidth = flag.length * 6.2 + 12;
  const flagX = Math.min(Math.max(at(layer) - flagWidth / 2, LEFT), width - flagWidth - 4);
  const [first, last] = inView(scale);
  const crowded = (width - LEFT) / Math.max(1, last - first) < 4;
  const bounds = { top: tops.at(-1) ?? 0, least: facts.least, greatest: facts.greatest };
  const place = { at: (z: number) => placeOf(scale, tops, z), left: LEFT, right: width - 14 };
  const lane = SETTING_LANES.find((entry) => entry.name === edited);
  const band = hands.chosen?.kind === "band" ? bands[hands.chosen.n] : undefined;
  const pin = hands.chosen?.kind === "pin" ? hands.pins[hands.chosen.n] : undefined;
  const chosenSpan =
    span &&
    spans.find(
      (entry) => entry.rule === span.rule && entry.from < span.to && entry.to > span.from,
    );
  const point = (clientX: number, element: Element) =>
    layerAt(scale, clientX - element.getBoundingClientRect().left);
  /** A press on a lane of settings opens its editor at the cursor. */
  const pressedLane = (event: { clientY: number; currentTarget: Element }) => {
    const y = event.clientY - event.currentTarget.getBoundingClientRect().top;
    const on = rows.find((row) => y >= row.y - 3 && y < row.y + SETTING_LANE + 3);
    if (on) setEdited(on.lane.name);
  };
  return (
    <section
      aria-label="Height lanes"
      className="flex min-h-0 flex-col border-t border-ink bg-sheet"
    >
      <LaneHeader
        kind={kind}
        armed={hands.armed}
        ghost={ghost}
        canGhost={!!compared}
        onGhost={onGhost}
        onArm={hands.arm}
        onSlice={() => setSheet("slice")}
        onTable={() => setSheet("table")}
        stepLimit={stepLimit}
        onStepLimit={(v) => desk.change(withSurface(desk.choice, { step_limit: v }))}
        onKind={(name) =>
          desk.change(
            withSurface(desk.choice, {
              kind: name === "even" ? undefined : name,
              ...(name === "best-fit" ? {} : { time_cap_min: undefined }),
            }),
          )
        }
      >
        <CursorBar cursor={cursor} tops={tops} path={path} />
        {crowded && (
          <Lens
            heights={heights}
            layer={shown}
            least={facts.least}
            greatest={facts.greatest}
          />
        )}
      </LaneHeader>
      <div className="flex min-h-[31px] items-center px-3 py-0.5">
        {lane ? (
          <LaneEditor
            key={lane.name}
            lane={lane}
            desk={desk}
            settings={settings}
            bands={bands}
            z={(tops[layer] ?? 0) - (heights[layer] ?? 0) / 2}
            inherited={facts.open[lane.name] ?? null}
            shown={drawn(lane.name)}
            onShown={() => onDrawn(lane.name)}
            onBand={hands.changeBand}
            onAdd={(changes) =>
              hands.addBand(...around(tops[layer] ?? 0, bounds.top), changes)
            }
            onDone={() => setEdited(null)}
          />
        ) : band && hands.chosen ? (
          <BandEditor
            key={hands.chosen.n}
            band={band}
            words={bandWords(band, settings)}
            onSettings={() => onPick({ kind: "band", n: hands.chosen?.n ?? 0 }, true)}
            bounds={bounds}
            snapped={hands.snapped}
            onBand={(next) => hands.changeBand(hands.chosen?.n ?? 0, next)}
            onRemove={() => hands.removeBand(hands.chosen?.n ?? 0)}
            onDone={() => hands.choose(null)}
          />
        ) : pin && hands.chosen ? (
          <PinEditor
            pin={pin}
            bounds={bounds}
            onPin={(next) => hands.changePin(hands.chosen?.n ?? 0, next)}
            onRemove={() => hands.removePin(hands.chosen?.n ?? 0)}
            onDone={() => hands.choose(null)}
          />
        ) : hands.armed === "band" ? (
          <p className="text-[13px]">
            Drag across the lanes from one edge to the other, or{" "}
            <button
              className="quiet"
              onClick={() => hands.addBand(...around(tops[layer] ?? 0, bounds.top))}
            >
              take 4 mm around the cursor and type
            </button>{" "}
            {hands.snapped}
          </p>
        ) : hands.armed === "pin" ? (
          <p className="text-[13px]">
            Click into the layer height lane, or{" "}
            <button
              className="quiet"
              onClick={() =>
                hands.addPin(
                  (tops[layer] ?? 0) - (heights[layer] ?? 0) / 2,
                  heights[layer] ?? facts.least,
                )
              }
            >
              pin the layer at the cursor
            </button>
          </p>
        ) : chosenSpan ? (
          <Relax
            plan={plan.id}
            desk={desk}
            figures={figures}
            span={chosenSpan}
            measure={measure}
            machine={machine}
            onDone={() => setSpan(null)}
          />
        ) : (
          <LayerSentence figures={figures} layer={shown} />
        )}
      </div>
      <div ref={box} className="relative flex-1" style={{ minHeight: BOTTOM + 44 }}>
        <svg
          role="slider"
          tabIndex={0}
          aria-label="Cursor along the height"
          aria-valuemin={1}
          aria-valuemax={tops.length}
          aria-valuenow={layer + 1}
          aria-valuetext={`layer ${layer + 1}, ${(tops[layer] ?? 0).toFixed(2)} mm`}
          width={width}
          height={BOTTOM + 44}
          className="narrow block touch-none select-none"
          onKeyDown={(event) => keys(event, cursor, layer)}
          onPointerDown={(event) => {
            if (hands.pressed(event)) return;
            event.currentTarget.setPointerCapture(event.pointerId);
            cursor.go(point(event.clientX, event.currentTarget));
            pressedLane(event);
          }}
          onPointerMove={(event) => {
            if (hands.moved(event, false)) return;
            const k = point(event.clientX, event.currentTarget);
            setHover(k);
            if (event.buttons & 1 && !hands.armed && event.target === event.currentTarget)
              cursor.go(k);
          }}
          onPointerUp={(event) => {
            hands.moved(event, true);
          }}
          onPointerCancel={(event) => {
            hands.moved(event, true);
          }}
          onPointerLeave={() => setHover(null)}
        >
          <RulePatterns />
          {Object.entries(ROWS).map(([name, [y, tall]]) => (
            <line
              key={name}
              x1={8}
              x2={width - 8}
              y1={y + tall + 3}
              y2={y + tall + 3}
              stroke={HAIRLINE}
            />
          ))}
          <Label y={ROWS.part[0] + 13} name="Part" unit="bed left, top right" />
          <Label y={ROWS.height[0] + 20} name="Layer height" unit="mm" />
          <Label y={ROWS.decides[0] + 13} name="What decides" />
          <Label y={ROWS.error[0] + 14} name="Step error" unit="µm" />
          <Label
            y={ROWS.time[0] + 11}
            name={showGhost ? "Difference" : "Time a layer"}
            unit={showGhost ? `min/mm to ${baselineName(plan)}` : "s"}
          />
          <Strip
            left={LEFT}
            right={width - 14}
            tops={tops}
            heights={heights}
            least={facts.least}
            greatest={facts.greatest}
            view={view}
            onView={setView}
          />
          {outline && (
            <Side scale={scale} outline={outline} y={ROWS.part[0]} tall={ROWS.part[1]} />
          )}
          {!outline && (
            <text x={LEFT + 6} y={ROWS.part[0] + 20} fontSize="12" fill={INK_3}>
              drawn with the exact plan
            </text>
          )}
          <HeightLane
            scale={scale}
            heights={heights}
            least={facts.least}
            greatest={facts.greatest}
            y={ROWS.height[0]}
            tall={ROWS.height[1]}
            ghost={
              showGhost
                ? ghostLine(scale, compared.layers.tops_mm, compared.layers.heights_mm, up)
                : null
            }
          />
          <DecidesLane
            scale={scale}
            spans={spans}
            chosen={chosenSpan ?? null}
            y={ROWS.decides[0]}
            tall={ROWS.decides[1]}
            onChoose={(entry) => {
              hands.choose(null);
              setSpan(entry === chosenSpan ? null : entry);
            }}
          />
          <ErrorLane
            scale={scale}
            largest={errors}
            mean={means}
            target={target}
            y={ROWS.error[0]}
            tall={ROWS.error[1]}
          />
          {showGhost ? (
            <DifferenceLane
              scale={scale}
              layers={figures.layers}
              compared={compared.layers}
              y={ROWS.time[0]}
              tall={ROWS.time[1]}
            />
          ) : (
            <ValueLane
              scale={scale}
              values={seconds}
              colour={FJORD}
              y={ROWS.time[0]}
              tall={ROWS.time[1]}
              format={(v) => v.toFixed(0)}
              guide={{ value: facts.leastTime, label: `least ${facts.leastTime} s` }}
            />
          )}
          {values &&
            rows.map(({ lane: row, y }) => (
              <g key={row.name} data-lane={row.name}>
                <line
                  x1={8}
                  x2={width - 8}
                  y1={y + SETTING_LANE + 3}
                  y2={y + SETTING_LANE + 3}
                  stroke={HAIRLINE}
                />
                <Label y={y + 11} name={row.title} unit={row.unit} />
                {values[row.name].length === tops.length ? (
                  <ValueLane
                    scale={scale}
                    values={values[row.name]}
                    colour={row.colour}
                    y={y}
                    tall={SETTING_LANE}
                    format={(v) => v.toFixed(row.digits)}
                    floating={row.floating}
                  />
                ) : (
                  <text x={LEFT + 6} y={y + 16} fontSize="12" fill={INK_3}>
                    drawn with the exact plan
                  </text>
                )}
              </g>
            ))}
          <g pointerEvents={hands.armed ? "none" : undefined}>
            <BandMarks
              bands={bands}
              settings={settings}
              chosen={hands.chosen?.kind === "band" ? hands.chosen.n : null}
              place={place}
              top={TOP}
              bottom={BOTTOM}
              onChoose={(n) => hands.choose({ kind: "band", n })}
              onEdge={hands.holdEdge}
            />
          </g>
          {hands.drawn && (
            <rect
              x={Math.min(...hands.drawn.map(place.at))}
              width={Math.abs(place.at(hands.drawn[1]) - place.at(hands.drawn[0]))}
              y={TOP}
              height={BOTTOM - TOP}
              fill={FJORD}
              fillOpacity="0.2"
              stroke={FJORD}
            />
          )}
          <g pointerEvents={hands.armed ? "none" : undefined}>
            <PinMarks
              pins={hands.pins}
              chosen={hands.chosen?.kind === "pin" ? hands.chosen.n : null}
              place={place}
              up={up}
              top={ROWS.height[0]}
              onChoose={(n) => hands.choose({ kind: "pin", n })}
              onDrag={hands.holdPin}
            />
          </g>
          <RegionSpans lines={lines} place={place} y={ROWS.part[0] + 2} />
          <FindingLane
            findings={findings}
            place={place}
            y={ROWS.part[0] + ROWS.part[1] - 5}
            onGo={onFinding}
          />
          {scale.x.ticks(10).map((tick) => (
            <text
              key={tick}
              x={scale.x(tick)}
              y={BOTTOM + 36}
              fontSize="12"
              fill={INK_3}
              textAnchor="middle"
            >
              {tick}
            </text>
          ))}
          {hover !== null && hover !== layer && (
            <line
              x1={at(hover)}
              x2={at(hover)}
              y1={TOP}
              y2={BOTTOM}
              stroke={INK_3}
              strokeDasharray="2 2"
              pointerEvents="none"
            />
          )}
          <g pointerEvents="none">
            <line
              x1={at(layer)}
              x2={at(layer)}
              y1={TOP}
              y2={BOTTOM + 22}
              stroke={SHEET}
              strokeWidth="4"
            />
            <line
              x1={at(layer)}
              x2={at(layer)}
              y1={TOP}
              y2={BOTTOM + 22}
              stroke={NORTH}
              strokeWidth="2"
            />
            <rect x={flagX} y={BOTTOM + 21} width={flagWidth} height={18} fill={NORTH} />
            <text
              x={flagX + flagWidth / 2}
              y={BOTTOM + 34}
              fontSize="12"
              fill={SHEET}
              textAnchor="middle"
            >
              {flag}
            </text>
          </g>
        </svg>
        <div
          className={clsx(
            "narrow absolute right-2 left-1 flex h-[19px] gap-x-2 overflow-hidden",
            "text-[12px] whitespace-nowrap text-ink-2",
          )}
          style={{ top: BOTTOM + 1 }}
          role="group"
          aria-label="What holds at every height"
        >
          {facts.folded
            .filter((entry) => !drawn(entry.lane))
            .map((entry) => (
              <button
                key={entry.lane}
                className={clsx(
                  "cursor-pointer border-0 bg-transparent px-1 hover:text-ink",
                  "hover:underline aria-pressed:font-semibold aria-pressed:text-ink",
                )}
                aria-pressed={edited === entry.lane}
                onClick={() => setEdited(edited === entry.lane ? null : entry.lane)}
              >
                {entry.words}
              </button>
            ))}
        </div>
        <button
          className={clsx(
            "narrow absolute bottom-0 left-1 cursor-pointer border-0 bg-transparent",
            "px-1 text-[12px] text-ink-2 underline",
          )}
          onClick={() => setAxis(axis === "height" ? "time" : "height")}
        >
          {axis === "height" ? "height mm ⇄ time" : "time min ⇄ height"}
        </button>
        {(view[0] > 0 || view[1] < 1) && (
          <button className="quiet absolute top-0 left-1" onClick={() => setView(WHOLE)}>
            whole part
          </button>
        )}
      </div>
      {sheet === "table" && (
        <LayerTable
          figures={figures}
          values={values}
          onClose={() => setSheet(null)}
          onGo={cursor.go}
        />
      )}
      {sheet === "slice" && (
        <SliceSheet
          plan={plan}
          desk={desk}
          z={tops[layer] ?? 0}
          top={bounds.top}
          onClose={() => setSheet(null)}
        />
      )}
    </section>
  );
}

/** Four millimetres around a height, inside the part. */
const around = (z: number, top: number): [number, number] => [
  Number(Math.max(0, z - 2).toFixed(2)),
  Number(Math.min(top, z + 2).toFixed(2)),
];

/**
 * The wheel moves the cursor, with Ctrl the zoom window; React's own wheel handler cannot keep the
 * page still.
 */
function useWheel(
  box: React.RefObject<HTMLDivElement | null>,
  cursor: Cursor,
  view: View,
  onView: (view: View) => void,
) {
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      if (!event.ctrlKey && !event.metaKey) {
        cursor.go(cursor.layer - Math.sign(event.deltaY) * (event.shiftKey ? 10 : 1));
        return;
      }
      const here = Math.min(
        1,
        Math.max(
          0,
          (event.clientX - element.getBoundingClientRect().left - LEFT) /
            (element.clientWidth - LEFT - 14),
        ),
      );
      const wide = Math.min(
        1,
        Math.max(0.01, (view[1] - view[0]) * (event.deltaY > 0 ? 1.25 : 0.8)),
      );
      const from = Math.min(
        1 - wide,
        Math.max(0, view[0] + here * (view[1] - view[0] - wide)),
      );
      onView([from, from + wide]);
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [box, cursor, view, onView]);
}

function keys(event: KeyboardEvent, cursor: Cursor, layer: number) {
  const by: Record<string, number> = {
    ArrowLeft: -1,
    ArrowDown: -1,
    ArrowRight: 1,
    ArrowUp: 1,
    PageDown: -10,
    PageUp: 10,
    Home: -1e9,
    End: 1e9,
  };
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

function Label({ y, name, unit }: { y: number; name: string; unit?: string }) {
  return (
    <>
      <text x={8} y={y} fontSize="13" fontWeight="600" fill={INK}>
        {name}
      </text>
      {unit && (
        <text x={8} y={y + 14} fontSize="12" fill={INK_3}>
          {unit}
        </text>
      )}
    </>
  );
}
