import { clsx } from "clsx";
import { type PointerEvent, useState, type WheelEvent } from "react";

import { signedSpan } from "../../format";
import { INK_3 } from "../../tokens";
import { ProgressWords } from "../header/Progress";
import { type Room, useRoom } from "../state/room";
import type { Figures } from "../state/useDesk";
import { withSurface } from "../state/wanted";
import { AboveMarks } from "./AboveMarks";
import { CursorBar } from "./CursorBar";
import { DrawnLanes } from "./DrawnLanes";
import { EditedHere } from "./EditedHere";
import { FoldedLanes } from "./FoldedLanes";
import { keys } from "./keys";
import { LaneCursor } from "./LaneCursor";
import { LaneHeader } from "./LaneHeader";
import { LayerTable } from "./LayerTable";
import { FOOT } from "./layout";
import { Lens } from "./Lens";
import { WHOLE } from "./scale";
import { SETTING_LANE } from "./settingLanes";
import { BRUSH_BOUNDS } from "./strokes";
import { SliceSheet } from "./SliceSheet";
import { type LanesState, useLanes } from "./useLanes";

/**
 * The height lanes: the part on its side, bed left and top right, and what happens at every height.
 */
export function Lanes({ figures }: { figures: Figures }) {
  const room = useRoom();
  const { plan, desk, cursor } = room;
  const lanes = useLanes(room, figures);
  const { tops, layer, axis, view, bottom } = lanes;
  const [sheet, setSheet] = useState<"table" | "slice" | null>(null);
  const close = () => setSheet(null);
  return (
    <section
      aria-label="Height lanes"
      className="flex min-h-0 flex-col border-t border-ink bg-sheet"
    >
      <Head lanes={lanes} room={room} onSheet={setSheet} />
      <div className="flex min-h-[31px] items-center gap-3 px-3 py-0.5">
        <EditedHere lanes={lanes} />
        <ProgressWords />
        {lanes.crowded && (
          <Lens
            heights={lanes.heights}
            layer={lanes.shown}
            least={lanes.facts.least}
            greatest={lanes.facts.greatest}
          />
        )}
      </div>
      <div
        ref={lanes.box}
        data-brush={lanes.hands.armed === "stroke" ? "" : undefined}
        className="relative flex-1"
        style={{ minHeight: bottom + FOOT }}
      >
        <svg
          role="slider"
          tabIndex={0}
          aria-label="Cursor along the height"
          aria-valuemin={1}
          aria-valuemax={tops.length}
          aria-valuenow={layer + 1}
          aria-valuetext={`layer ${layer + 1}, ${(tops[layer] ?? 0).toFixed(2)} mm`}
          width={lanes.width}
          height={bottom + FOOT}
          className="narrow block touch-none select-none"
          onKeyDown={(event) => keys(event, cursor, layer)}
          {...pointing(lanes, room)}
        >
          <DrawnLanes lanes={lanes} />
          {lanes.scale.x.ticks(10).map((tick) => (
            <text
              key={tick}
              x={lanes.scale.x(tick)}
              y={bottom + 42}
              fontSize="12"
              fill={INK_3}
              textAnchor="middle"
            >
              {tick}
            </text>
          ))}
          <LaneCursor
            x={lanes.middle(layer)}
            hover={lanes.shown !== layer ? lanes.middle(lanes.shown) : null}
            words={`${(tops[layer] ?? 0).toFixed(2)} mm · layer ${layer + 1}`}
            width={lanes.width}
            bottom={bottom}
          />
        </svg>
        <AboveMarks lanes={lanes} />
        <FoldedLanes lanes={lanes} y={bottom + 1} />
        <button
          className={clsx(
            "narrow absolute bottom-0 left-1 cursor-pointer border-0 bg-transparent",
            "min-h-[24px] px-1 text-[12px] text-ink-2 underline",
          )}
          onClick={() => lanes.setAxis(axis === "height" ? "time" : "height")}
        >
          {axis === "height" ? "height mm ⇄ time" : "time min ⇄ height"}
        </button>
        {(view[0] > 0 || view[1] < 1) && (
          <button className="quiet absolute top-0 left-1" onClick={() => lanes.setView(WHOLE)}>
            whole part
          </button>
        )}
      </div>
      {sheet === "table" && (
        <LayerTable figures={figures} values={lanes.values} onClose={close} onGo={cursor.go} />
      )}
      {sheet === "slice" && (
        <SliceSheet
          plan={plan}
          desk={desk}
          z={tops[layer] ?? 0}
          top={lanes.bounds.top}
          onClose={close}
        />
      )}
    </section>
  );
}

/** How layer heights are chosen, the cursor typed, and ways to the sheets. */
function Head({
  lanes,
  room,
  onSheet,
}: {
  lanes: LanesState;
  room: Room;
  onSheet: (sheet: "table" | "slice") => void;
}) {
  const { desk, cursor, path, ghost } = room;
  const { hands } = lanes;
  const { kind, stepLimit } = desk.wanted;
  return (
    <LaneHeader
      kind={kind}
      armed={hands.armed}
      ghost={ghost.shown}
      canGhost={!!ghost.base}
      onGhost={ghost.onPinned}
      onArm={hands.arm}
      onSlice={() => onSheet("slice")}
      onTable={() => onSheet("table")}
      stepLimit={stepLimit}
      onStepLimit={(v) => desk.change(withSurface(desk.choice, { step_limit: v }))}
      calm={desk.wanted.calm}
      calmWords={calmWords(lanes.figures)}
      onCalm={(v) => desk.change(withSurface(desk.choice, { calm: v }))}
      onKind={(name) =>
        desk.change(
          withSurface(desk.choice, {
            kind: name === "even" ? undefined : name,
            ...(name === "best-fit" ? {} : { time_cap_min: undefined }),
          }),
        )
      }
    >
      <CursorBar cursor={cursor} tops={lanes.tops} path={path} />
    </LaneHeader>
  );
}

/** How often heights change, and what was given for that. */
function calmWords({ surface }: Figures): string {
  const { turns, changes, turns_before, changes_before, cost_s } = surface.calm;
  return (
    `Heights change ${changes} times (${changes_before} without calm) and turn ${turns} times ` +
    `(${turns_before}); that costs ${signedSpan(cost_s)}.`
  );
}

/** What the pointer does on the lanes: moves what is held, else the cursor; opens editors. */
function pointing(lanes: LanesState, { cursor }: Room) {
  const { hands, rows } = lanes;
  type At = PointerEvent<SVGSVGElement>;
  const released = (event: At) => {
    hands.moved(event, true);
  };
  return {
    onPointerDown: (event: At) => {
      if (hands.pressed(event)) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      cursor.go(lanes.layerUnder(event.clientX, event.currentTarget));
      const y = event.clientY - event.currentTarget.getBoundingClientRect().top;
      const on = rows.find((row) => y >= row.y - 3 && y < row.y + SETTING_LANE + 3);
      if (on) lanes.setEdited(on.lane.name);
    },
    onPointerMove: (event: At) => {
      if (hands.moved(event, false)) return;
      const k = lanes.layerUnder(event.clientX, event.currentTarget);
      lanes.setHover(k);
      if (event.buttons & 1 && !hands.armed && event.target === event.currentTarget)
        cursor.go(k);
    },
    onPointerUp: released,
    onPointerCancel: released,
    onWheel: (event: WheelEvent<SVGSVGElement>) => {
      if (hands.armed !== "stroke") return;
      const [least, most] = BRUSH_BOUNDS.wide;
      const wide = hands.brush.wide * (event.deltaY > 0 ? 1 / 1.15 : 1.15);
      hands.setBrush({
        ...hands.brush,
        wide: Number(Math.max(least, Math.min(most, wide)).toFixed(1)),
      });
    },
    onPointerLeave: () => lanes.setHover(null),
  };
}
