import { clsx } from "clsx";
import { Canvas } from "@react-three/fiber";
import { memo, useMemo, useRef, useState } from "react";

import type { Feature } from "../../tokens";
import type { Finding, Layers, Report } from "../../api/client";
import type { Toolpath } from "../toolpath";
import type { Cursor } from "../useCursor";
import { supportMarksOf, withSupportMarks } from "../paths/Stands";
import {
  ON_FACE,
  type Picked,
  type Region,
  regionsOf,
  type RegionShape,
  replaced,
  withRegions,
} from "../places/places";
import type { RegionLines } from "../places/useRegionLines";
import { withValue } from "../choice";
import type { Desk } from "../useDesk";
import { Attention, type Mark, marksOf, withMarks } from "./Attention";
import { type Bead, beadAt } from "./beads/beadAt";
import { BeadCard } from "./beads/BeadCard";
import { Beads } from "./beads/Beads";
import { AskBar, BeadLegend } from "./beads/Inspector";
import { answer as answerTo, type Question } from "./beads/questions";
import { TravelMarks } from "./beads/TravelMarks";
import { Bed, type BedShape, STEP } from "./Bed";
import { Camera, type Focus } from "./Camera";
import { CursorFlag } from "./CursorFlag";
import { FindingMarks, Pinned } from "./FindingMarks";
import { GhostPath } from "./GhostPath";
import { SOFTWARE } from "./graphics";
import { MarkDots } from "./MarkDots";
import { HEIGHT_COLOURS, Legend, STEP_COLOURS } from "./Legend";
import { Placing } from "./Placing";
import { type Grip, RegionMarks } from "./RegionMarks";
import { Shape, type Spot } from "./Shape";
import { SeamAreas, seamMarksOf, withSeamMarks } from "./SeamAreas";
import { type SupportBrush, Supporting } from "./Supporting";
import type { Paint } from "./surfaceMaterial";
import { toBed, toFile, useShape } from "./useShape";

/** Marks of one finding are this share of the part's size apart. */
const NEAR = 0.15;

export type Marking = "attention" | "supports" | "seam" | "regions" | null;
type View = "shape" | "steps" | "heights" | "beads";

export interface StageProps {
  plan: number;
  desk: Desk;
  /** Changes when the part stands differently or other faces are marked. */
  shapeKey: string;
  size: readonly number[];
  bed: BedShape;
  path: Toolpath | undefined;
  /** The baseline's beads, while it is to show through. */
  ghost: Toolpath | null;
  /** The layers that the paint shows: of this plan, or of the baseline. */
  layers: Layers | null;
  limits: [number, number];
  /** How far a raft raises the beads; the shape stays where its heights are counted from. */
  lift: number;
  cursor: Cursor;
  top: number;
  stale: boolean;
  /** Of the exact plan whose beads are shown. */
  report: Report | null;
  findings: Finding[];
  /** Flow (mm³/s) that is not exceeded, and seconds a layer needs to set. */
  safe: number;
  least: number;
  focus: Focus | null;
  onFinding: (finding: Finding, place: readonly number[]) => void;
  onFocusDone: () => void;
  /** What clicks on the part mark. */
  marking: Marking;
  onMarking: (marking: Marking) => void;
  lines: RegionLines[];
  picked: Picked;
  onPicked: (picked: Picked) => void;
}

/**
 * The 3D view: the bed to scale, and the part painted by what its layers do to it, or as its beads
 * up to the cursor.
 */
export const Stage = memo(function Stage(props: StageProps) {
  const [view, setView] = useState<View>("beads");
  const [hidden, setHidden] = useState<ReadonlySet<Feature>>(new Set<Feature>());
  const [question, setQuestion] = useState<Question>("what");
  const [below, setBelow] = useState(true);
  const [travel, setTravel] = useState(false);
  const [seams, setSeams] = useState(false);
  const [bead, setBead] = useState<{ bead: Bead; kept: boolean } | null>(null);
  const callout = useRef<HTMLDivElement>(null);
  const [fit, setFit] = useState(0);
  const { marking, onMarking } = props;
  const [kind, setKind] = useState<RegionShape>("under");
  const [upright, setUpright] = useState(false);
  const [corners, setCorners] = useState<[number, number, number][]>([]);
  const [support, setSupport] = useState<SupportBrush>({ want: true, radius: 0, spread: 20 });
  const [seamWant, setSeamWant] = useState(true);
  const [brush, setBrush] = useState<Mark["attention"]>("seen");
  const [spot, setSpot] = useState<Spot | null>(null);
  const { path, bed, cursor, layers, desk } = props;
  const shape = useShape(props.plan, props.shapeKey).data;
  // faces are marked on the shape, not on its beads
  const beads = view === "beads" && path && marking === null;
  const paint: Paint = view === "beads" ? "shape" : view;
  const origin = useMemo<[number, number]>(() => bed.origin, [bed]);
  const most = useMemo(
    () => niceAbove(layers?.error_um.reduce((a, b) => Math.max(a, b), 20) ?? 200),
    [layers],
  );
  const answer = useMemo(
    () => (path ? answerTo(question, path, props.report, props.safe, props.least) : null),
    [question, path, props.report, props.safe, props.least],
  );
  const point = (x: number, y: number, keep: boolean) => {
    if (!path || (bead?.kept && !keep)) return;
    const found = beadAt(
      path,
      cursor.beadLayer,
      cursor.move,
      origin,
      x,
      y,
      hidden,
      keep ? 0.6 : 0.3,
    );
    setBead(found ? { bead: found, kept: keep } : null);
  };
  const regions = regionsOf(desk.choice);
  const addRegion = (region: Region) => {
    desk.change(withRegions(desk.choice, [...regions, region]));
    props.onPicked({ kind: "region", n: regions.length });
    onMarking(null);
  };
  const closeOutline = () => {
    if (!shape) return;
    const points = corners.map(
      (at) =>
        toFile(shape.affine, at).map((v) => Number(v.toFixed(3))) as [number, number, number],
    );
    const [x, y, z] = points[0] ?? [0, 0, 0];
    addRegion({ name: "", shape: "outline", x, y, z, points, size_z: 10, changes: {} });
    setCorners([]);
  };
  const grips = useMemo<Grip[]>(
    () =>
      shape
        ? regions.flatMap((region, n) =>
            ON_FACE.includes(region.shape)
              ? []
              : [{ n, at: toBed(shape.affine, middleOf(region)) }],
          )
        : [],
    [shape, regions],
  );
  const dropped = (n: number, by: [number, number, number]) => {
    const region = regions[n];
    if (!shape || !region) return;
    const shifted = (at: readonly number[]) =>
      toFile(
        shape.affine,
        toBed(shape.affine, at).map((v, k) => v + (by[k] ?? 0)) as [number, number, number],
      ).map((v) => Number(v.toFixed(3))) as [number, number, number];
    const [x, y, z] = shifted([region.x, region.y, region.z]);
    desk.change(
      withRegions(
        desk.choice,
        replaced(regions, n, {
          ...region,
          x,
          y,
          z,
          ...(region.points ? { points: region.points.map(shifted) } : {}),
        }),
      ),
    );
  };
  const pick = (point: [number, number, number], level: number) => {
    if (!shape) return;
    setUpright(false);
    const own = (at: [number, number, number]) =>
      toFile(shape.affine, at).map((v) => Number(v.toFixed(3))) as [number, number, number];
    const [x, y, z] = own(point);
    if (marking === "regions") {
      if ((kind === "under" || kind === "over") && level < 0.03) setUpright(true);
      else if (kind === "outline")
        setCorners([...corners, [point[0], point[1], corners[0]?.[2] ?? point[2]]]);
      else
        addRegion({
          name: "",
          shape: kind,
          x,
          y,
          z,
          reach:
            kind === "under" || kind === "over"
              ? 0
              : kind === "near"
                ? 2
                : Math.max(2, Math.round(props.size[0] ?? 50) / 8),
          ...sized(props.size),
          changes: {},
        });
      return;
    }
    if (marking === "supports") {
      const marked = withSupportMarks(desk, [
        ...supportMarksOf(desk),
        { x, y, z, ...support, spread: support.radius > 0 ? 180 : support.spread },
      ]);
      desk.change({
        ...marked,
        settings: withValue(marked.settings, "supports", "enabled", true, false),
      });
    } else if (marking === "seam")
      desk.change(
        withSeamMarks(desk, [...seamMarksOf(desk), { x, y, z, radius: 5, want: seamWant }]),
      );
    else
      desk.change(
        withMarks(desk, [...marksOf(desk), { x, y, z, spread: 20, attention: brush }]),
      );
  };
  const surface = desk.figures?.surface;
  return (
    <section aria-label="Stage" className="relative h-full min-h-0 overflow-hidden">
      <Canvas
        flat
        frameloop="demand"
        gl={{ antialias: !SOFTWARE }}
        dpr={SOFTWARE ? 1 : [1, 2]}
        camera={{ fov: 32, up: [0, 0, 1], near: 1, far: 6000 }}
        aria-label="The part on the bed"
      >
        <Bed bed={bed} />
        {beads && answer && (
          <group position={[0, 0, -props.lift]}>
            <Beads
              path={path}
              answer={answer}
              layer={cursor.beadLayer}
              move={cursor.move}
              origin={origin}
              hidden={hidden}
              below={below}
            />
            <TravelMarks
              path={path}
              layer={cursor.beadLayer}
              move={cursor.move}
              origin={origin}
              travel={travel}
              seams={seams}
            />
            <mesh
              position={[0, 0, path.tops[cursor.beadLayer] ?? 0]}
              onPointerMove={(event) => {
                if (!event.buttons) point(event.point.x, event.point.y, false);
              }}
              onPointerOut={() => setBead((now) => (now?.kept ? now : null))}
              onClick={(event) => {
                if (event.delta < 4) point(event.point.x, event.point.y, true);
              }}
            >
              <planeGeometry args={[4 * bed.x, 4 * bed.y]} />
              <meshBasicMaterial visible={false} />
            </mesh>
          </group>
        )}
        <FindingMarks
          findings={props.findings}
          focus={props.focus}
          near={NEAR * Math.hypot(...props.size)}
          onGo={(finding, place) => {
            setBead(null);
            props.onFinding(finding, place);
          }}
        />
        {props.focus && <Pinned focus={props.focus} element={callout} />}
        {beads && props.ghost ? (
          <GhostPath path={props.ghost} z={props.top} origin={origin} />
        ) : null}
        {shape && (
          <Shape
            shape={shape}
            layers={layers}
            paint={paint}
            most={most}
            limits={props.limits}
            ghost={!!beads}
            cut={
              beads || (marking !== null && marking !== "regions") ? null : props.top + 0.001
            }
            onSpot={setSpot}
            onPick={marking !== null && !beads ? pick : null}
          />
        )}
        {shape && (marking === "supports" || marking === "seam") && (
          <MarkDots
            marks={marking === "supports" ? supportMarksOf(desk) : seamMarksOf(desk)}
            affine={shape.affine}
          />
        )}
        {(props.lines.length > 0 || corners.length > 0) && (
          <RegionMarks
            lines={props.lines}
            picked={props.picked?.kind === "region" ? props.picked.n : null}
            drawn={corners}
            grips={grips}
            size={Math.hypot(...props.size)}
            onPick={(n) => props.onPicked({ kind: "region", n })}
            onDrop={dropped}
          />
        )}
        <CursorFlag size={props.size} z={props.top} />
        <Camera size={props.size} fit={fit} focus={props.focus} />
      </Canvas>
      <div
        className={clsx(
          "absolute top-2 left-3 flex gap-1 whitespace-nowrap xl:gap-2",
          "max-xl:[&_.quiet]:px-1.5",
        )}
        role="group"
        aria-label="What the stage shows"
      >
        <span className="flex">
          {(["shape", "steps", "heights", "beads"] as const).map((name) => (
            <button
              key={name}
              className="quiet"
              aria-pressed={view === name && !(name === "beads" && marking !== null)}
              onClick={() => {
                setView(name);
                setSpot(null);
                setBead(null);
                if (name === "beads") onMarking(null);
              }}
            >
              {name}
            </button>
          ))}
        </span>
        <span className="flex">
          {(["attention", "supports", "seam", "regions"] as const).map((name) => (
            <button
              key={name}
              className="quiet"
              aria-pressed={marking === name}
              onClick={() => {
                setCorners([]);
                onMarking(marking === name ? null : name);
              }}
            >
              {name}
            </button>
          ))}
        </span>
        <button
          className="quiet"
          aria-label="whole part"
          title="Look at the whole part"
          onClick={() => setFit(fit + 1)}
        >
          whole<span className="max-xl:hidden"> part</span>
        </button>
      </div>
      {marking === "regions" && (
        <Placing
          shape={kind}
          upright={upright}
          onShape={(next) => {
            setKind(next);
            setCorners([]);
            setUpright(false);
          }}
          corners={corners.length}
          onClose={closeOutline}
          onUndo={() => setCorners(corners.slice(0, -1))}
        />
      )}
      {marking === "supports" && (
        <Supporting desk={desk} brush={support} onBrush={setSupport} />
      )}
      {marking === "seam" && <SeamAreas desk={desk} want={seamWant} onWant={setSeamWant} />}
      {marking === "attention" && (
        <Attention
          desk={desk}
          brush={brush}
          onBrush={setBrush}
          seen={surface?.seen_mm2 ?? 0}
          hidden={surface?.hidden_mm2 ?? 0}
        />
      )}
      {view === "steps" && (
        <Legend
          title="step error"
          unit="µm"
          from={0}
          to={most}
          colours={STEP_COLOURS}
          format={(v) => String(Math.round(v))}
        />
      )}
      {view === "heights" && (
        <Legend
          title="layer height"
          unit="mm"
          from={props.limits[0]}
          to={props.limits[1]}
          colours={HEIGHT_COLOURS}
          format={(v) => v.toFixed(2)}
        />
      )}
      {!beads && spot && (
        <p
          data-spot
          className="narrow absolute right-3 bottom-12 bg-sheet/90 px-2 py-0.5 text-[13px]"
        >
          {spot.point[2].toFixed(2)} mm · layer {spot.layer + 1} · {spot.height.toFixed(2)} mm
          tall · <b>step {Math.round(spot.errorUm)} µm</b> · {Math.round(spot.lean)}° from
          level
          {spot.attention === 2 ? " · seen" : spot.attention === 0 ? " · hidden" : ""}
        </p>
      )}
      <p className="narrow absolute top-3 right-3 hidden text-[12px] text-ink-3 xl:block">
        bed {bed.round ? `Ø ${bed.x}` : `${bed.x} × ${bed.y}`} mm, grid {STEP} mm
      </p>
      {props.stale && beads && (
        <p className="absolute top-11 right-3 bg-sheet/90 px-2 py-1 text-[13px] text-ink-2">
          beads of the last exact plan
        </p>
      )}
      {props.ghost && (
        <p className="absolute top-11 right-3 bg-sheet/90 px-2 py-1 text-[13px]">
          {beads ? "baseline drawn dashed at this height" : "the baseline's layers are shown"}
        </p>
      )}
      {view === "beads" && !path && (
        <p role="status" className="absolute top-12 left-3 text-[13px] text-ink-2">
          The beads appear when the exact plan is there.
        </p>
      )}
      {beads && answer && (
        <AskBar
          question={question}
          onQuestion={(next) => {
            setQuestion(next);
            setBead(null);
          }}
          below={below}
          onBelow={setBelow}
          travel={travel}
          onTravel={setTravel}
          seams={seams}
          onSeams={setSeams}
        />
      )}
      {beads && answer && (
        <BeadLegend path={path} answer={answer} hidden={hidden} onHidden={setHidden} />
      )}
      {beads && bead && (
        <BeadCard
          bead={bead.bead}
          report={props.report}
          safe={props.safe}
          least={props.least}
          kept={bead.kept}
          desk={desk}
          onClose={() => setBead(null)}
        />
      )}
      {props.focus && (
        <div
          ref={callout}
          data-callout
          className={clsx(
            "absolute top-0 left-0 z-[4] flex max-w-72 items-start gap-1 border",
            "border-look bg-sheet px-2 py-1 text-[12px]",
          )}
        >
          <span>{props.focus.title}</span>
          <button
            className="quiet -my-0.5"
            aria-label="Close the callout"
            onClick={props.onFocusDone}
          >
            close
          </button>
        </div>
      )}
    </section>
  );
});

/** Where a region is held: its middle, or that of its corners. */
const middleOf = (region: Region): number[] =>
  region.points?.length
    ? [0, 1, 2].map(
        (k) =>
          (region.points ?? []).reduce((sum, at) => sum + (at[k] ?? 0), 0) /
          (region.points?.length ?? 1),
      )
    : [region.x, region.y, region.z];

/** A box or cylinder about a quarter of the part, to begin with. */
const sized = (size: readonly number[]) => ({
  size_x: Math.max(2, Math.round((size[0] ?? 40) / 4)),
  size_y: Math.max(2, Math.round((size[1] ?? 40) / 4)),
  size_z: Math.max(2, Math.round((size[2] ?? 40) / 4)),
});

/** A round figure not below a value, for the end of a scale. */
function niceAbove(value: number): number {
  return Math.ceil(value / 20) * 20;
}
