import { Canvas, useThree } from "@react-three/fiber";
import { clsx } from "clsx";
import { useEffect, useMemo, useRef, useState } from "react";

import type { Finding } from "../../api/client";
import { supportMarksOf } from "../panels/paths/Stands";
import { type Room, useRoom } from "../state/room";
import type { Marking } from "../state/useMarking";
import type { View } from "../state/useSight";
import { BeadCard } from "./beads/BeadCard";
import { AskBar, BeadLegend } from "./beads/Inspector";
import { BeadLayers } from "./BeadLayers";
import { Bed, STEP } from "./Bed";
import { Camera } from "./Camera";
import { CursorFlag } from "./CursorFlag";
import { FindingMarks, Pinned } from "./FindingMarks";
import { GhostPath } from "./GhostPath";
import { DENSITY, SOFTWARE } from "./graphics";
import { MarkDots } from "./MarkDots";
import { Mending, MendingNotes, useMending } from "./mesh/Mending";
import { MovingBodies } from "./mesh/MovingBodies";
import { useMoveBodies } from "./mesh/useMoveBodies";
import { MarkingTool } from "./MarkingTool";
import { PaintNotes, scaleEnd } from "./PaintNotes";
import { RegionMarks } from "./RegionMarks";
import { seamMarksOf } from "./SeamAreas";
import { Shape, type Spot } from "./Shape";
import { StageBar } from "./StageBar";
import { TurningShape } from "./turn/TurningShape";
import { useTurn } from "./turn/useTurn";
import { useBeadView } from "./useBeadView";
import { useBrushes } from "./useBrushes";
import { useRegionTools } from "./useRegionTools";

/** Where the mesh is looked at, its own faults are marked. */
const NO_FINDINGS: Finding[] = [];
/** Marks of one finding are this share of the part's size apart. */
const NEAR = 0.15;

/**
 * The 3D view: the bed to scale, and the part painted by what its layers do to it, or as its beads
 * up to the cursor.
 */
export function Stage() {
  const room = useRoom();
  const { desk, path, ghost, placed, marks, sight } = room;
  const { size, shape, bed } = placed;
  const { marking } = marks;
  const { view } = sight;
  const [fit, setFit] = useState(0);
  const [spot, setSpot] = useState<Spot | null>(null);
  const callout = useRef<HTMLDivElement>(null);
  const beadView = useBeadView(room);
  const regions = useRegionTools(room);
  const brushes = useBrushes(room);
  const turn = useTurn(room);
  const bodies = useMoveBodies(room);
  // faces are marked on the shape, not on its beads
  const beads = view === "beads" && path !== undefined && marking === null;
  // beads are those of the last exact plan while a hand holds something: the frames go to the lanes
  const still = beads && desk.held;
  const mending = useMending(room, view === "mesh" && marking === null);
  // supports are painted where it is seen what leans out
  const paint = marking === "supports" || marking === "turn" ? "leans" : view;
  const layers = ghost.shown && ghost.base ? ghost.base.report.layers : desk.figures?.layers;
  const most = useMemo(() => scaleEnd(layers ?? null), [layers]);
  const { least_height: least, greatest_height: greatest } = desk.now.resolved;
  const now = desk.now.spec;
  const angle = Number(now.supports?.angle ?? 50);
  const limits = useMemo<[number, number]>(() => [least, greatest], [least, greatest]);
  const mark = (next: Marking) => {
    regions.clear();
    marks.onMarking(next);
  };
  const look = (next: View) => {
    sight.look(next);
    setSpot(null);
    beadView.forget();
    if (next === "beads") mark(null);
  };
  const press = marking === "regions" ? regions.press : brushes.press;
  const whole = marking !== null && marking !== "regions";
  return (
    <section aria-label="Stage" className="@container relative h-full min-h-0 overflow-hidden">
      <Canvas
        flat
        frameloop={still ? "never" : "demand"}
        gl={{ antialias: !SOFTWARE }}
        dpr={DENSITY}
        camera={{ fov: 32, up: [0, 0, 1], near: 1, far: 6000 }}
        role="img"
        aria-label="The part on the bed"
      >
        <AfterRest resting={still} />
        <Bed bed={bed} />
        {beads && <BeadLayers room={room} view={beadView} />}
        <FindingMarks
          findings={mending.wanted ? NO_FINDINGS : room.findings}
          focus={sight.focus}
          pointed={sight.pointed}
          near={NEAR * Math.hypot(...size)}
          onGo={(finding, place) => {
            beadView.forget();
            sight.toFinding(finding, place);
          }}
        />
        {sight.focus && <Pinned focus={sight.focus} element={callout} />}
        {beads && ghost.path && (
          <GhostPath path={ghost.path} z={room.top} origin={bed.origin} />
        )}
        {mending.shown && <Mending mending={mending} />}
        {shape && marking === "turn" && (
          <TurningShape
            shape={shape}
            size={size}
            angle={angle}
            turning={turn.turning}
            snap={turn.snap}
            onTurning={turn.onTurning}
            onTurned={turn.onTurned}
          />
        )}
        {shape && marking === "bodies" && (
          <MovingBodies
            shape={shape}
            way={bodies.way}
            onWay={bodies.onWay}
            onDrop={bodies.drop}
          />
        )}
        {shape && !mending.shown && marking !== "turn" && marking !== "bodies" && (
          <Shape
            shape={shape}
            layers={layers ?? null}
            paint={paint === "beads" || paint === "mesh" ? "shape" : paint}
            most={most}
            limits={limits}
            ghost={beads}
            cut={beads || whole ? null : room.top + 0.001}
            angle={angle}
            dabs={brushes.dabs}
            onStroke={beads ? null : brushes.stroke}
            onSpot={setSpot}
            onPick={marking !== null && !beads && !brushes.stroke ? press : null}
          />
        )}
        {shape && (marking === "supports" || marking === "seam") && (
          <MarkDots
            marks={marking === "supports" ? supportMarksOf(desk) : seamMarksOf(desk)}
            affine={shape.affine}
          />
        )}
        {(marks.lines.length > 0 || regions.corners.length > 0) && (
          <RegionMarks
            lines={marks.lines}
            picked={marks.picked?.kind === "region" ? marks.picked.n : null}
            drawn={regions.corners}
            grips={regions.grips}
            size={Math.hypot(...size)}
            onPick={(n) => marks.pick({ kind: "region", n })}
            onDrop={regions.drop}
          />
        )}
        <CursorFlag size={size} z={room.top} />
        <Camera size={size} fit={fit} focus={sight.focus} />
      </Canvas>
      <div
        className={clsx(
          "pointer-events-none absolute top-2 right-3 left-3 flex flex-col items-start gap-1",
          "[&>*]:pointer-events-auto",
        )}
      >
        <StageBar
          view={view}
          onView={look}
          marking={marking}
          onMarking={mark}
          onWhole={() => setFit(fit + 1)}
        />
        {beads && beadView.answer && (
          <AskBar
            question={beadView.question}
            onQuestion={beadView.setQuestion}
            below={beadView.below}
            onBelow={beadView.setBelow}
            travel={beadView.travel}
            onTravel={beadView.setTravel}
            seams={beadView.seams}
            onSeams={beadView.setSeams}
          />
        )}
      </div>
      <MarkingTool
        brushes={brushes}
        regions={regions}
        turn={turn}
        angle={angle}
        moved={bodies.way}
      />
      <MendingNotes mending={mending} />
      <PaintNotes
        view={paint}
        most={most}
        limits={limits}
        angle={angle}
        bead={Number(now.body?.outer_width ?? 0.45)}
        spot={beads ? null : spot}
        aside={marking !== null}
      />
      <StageWords room={room} view={view} beads={beads} />
      {beads && beadView.answer && (
        <BeadLegend
          path={path}
          answer={beadView.answer}
          hidden={beadView.hidden}
          onHidden={beadView.setHidden}
        />
      )}
      {beads && beadView.read && (
        <BeadCard
          bead={beadView.read.bead}
          report={beadView.report}
          safe={beadView.safe}
          least={beadView.least}
          kept={beadView.read.kept}
          desk={desk}
          onClose={beadView.forget}
        />
      )}
      {sight.focus && (
        <div
          ref={callout}
          data-callout
          className={clsx(
            "absolute top-0 left-0 z-[4] flex max-w-72 items-start gap-1 border",
            "border-look bg-sheet px-2 py-1 text-[12px]",
          )}
        >
          <span>{sight.focus.title}</span>
          <button
            className="quiet -my-0.5"
            aria-label="Close the callout"
            onClick={sight.leave}
          >
            close
          </button>
        </div>
      )}
    </section>
  );
}

/** Draws a frame when the stage goes on after a rest. */
function AfterRest({ resting }: { resting: boolean }) {
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => {
    if (!resting) invalidate();
  }, [resting, invalidate]);
  return null;
}

/** How large the bed is, and what the maker should know about what is drawn. */
function StageWords({ room, view, beads }: { room: Room; view: View; beads: boolean }) {
  const { bed } = room.placed;
  return (
    <>
      <p
        className={clsx(
          "narrow absolute right-33 bottom-4 hidden text-[12px] text-ink-3",
          "@min-[600px]:block",
        )}
      >
        bed {bed.round ? `Ø ${bed.x}` : `${bed.x} × ${bed.y}`} mm, grid {STEP} mm
      </p>
      {(room.laid !== null || !room.desk.upToDate) && beads && (
        <p
          data-laid={room.laid === null ? undefined : ""}
          className="absolute top-11 right-3 bg-sheet/90 px-2 py-1 text-[13px] text-ink-2"
        >
          {room.laid === null ? "beads of the last exact plan" : `so far: ${room.laid}`}
        </p>
      )}
      {room.ghost.path && (
        <p className="absolute top-11 right-3 bg-sheet/90 px-2 py-1 text-[13px]">
          {beads ? "baseline drawn dashed at this height" : "the baseline's layers are shown"}
        </p>
      )}
      {!room.placed.shape && !beads && (
        <p role="status" className="absolute right-3 bottom-14 text-[13px] text-ink-2">
          Fetching the part’s shape …
        </p>
      )}
      {view === "beads" && !room.path && (
        <p role="status" className="absolute top-12 left-3 text-[13px] text-ink-2">
          The beads appear when the exact plan is there.
        </p>
      )}
    </>
  );
}
