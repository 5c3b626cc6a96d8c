import { Canvas, useThree } from "@react-three/fiber";
import { memo, useEffect, useMemo, useState } from "react";
import { MOUSE, PerspectiveCamera, Vector3 } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

import { FEATURES, LAID, type Feature } from "../../tokens";
import type { Layers } from "../../api/client";
import type { Toolpath } from "../toolpath";
import type { Cursor } from "../useCursor";
import type { Desk } from "../useDesk";
import { Attention, type Mark, marksOf, withMarks } from "./Attention";
import { Bed, type BedShape, STEP } from "./Bed";
import { CursorFlag } from "./CursorFlag";
import { GhostPath } from "./GhostPath";
import { HEIGHT_COLOURS, Legend, STEP_COLOURS } from "./Legend";
import { Paths } from "./Paths";
import { Shape, type Spot } from "./Shape";
import type { Paint } from "./surfaceMaterial";
import { toFile, useShape } from "./useShape";

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
}

/** The 3D view: the bed to scale, and the part painted by what its layers do to it, or as its beads up to the cursor. */
export const Stage = memo(function Stage(props: StageProps) {
  const [view, setView] = useState<View>("beads");
  const [hidden, setHidden] = useState<ReadonlySet<Feature>>(new Set<Feature>(["travel"]));
  const [fit, setFit] = useState(0);
  const [marking, setMarking] = useState(false);
  const [brush, setBrush] = useState<Mark["attention"]>("seen");
  const [spot, setSpot] = useState<Spot | null>(null);
  const { path, bed, cursor, layers, desk } = props;
  const shape = useShape(props.plan, props.shapeKey).data;
  const beads = view === "beads" && path;
  const paint: Paint = view === "beads" ? "shape" : view;
  const origin = useMemo<[number, number]>(() => (bed.round ? [0, 0] : [bed.x / 2, bed.y / 2]), [bed]);
  const most = useMemo(() => niceAbove(layers?.error_um.reduce((a, b) => Math.max(a, b), 20) ?? 200), [layers]);
  const toggle = (name: Feature) => {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    setHidden(next);
  };
  const pick = (point: [number, number, number]) => {
    if (!shape) return;
    const [x, y, z] = toFile(shape.affine, point).map((v) => Number(v.toFixed(3))) as [number, number, number];
    desk.change(withMarks(desk, [...marksOf(desk), { x, y, z, spread: 20, attention: brush }]));
  };
  const surface = desk.figures?.surface;
  return (
    <section aria-label="Stage" className="relative h-full min-h-0 overflow-hidden">
      <Canvas flat frameloop="demand" gl={{ antialias: true }} dpr={[1, 2]}
        camera={{ fov: 32, up: [0, 0, 1], near: 1, far: 6000 }} aria-label="The part on the bed">
        <Bed bed={bed} />
        {beads ? <group position={[0, 0, -props.lift]}><Paths path={path} layer={cursor.beadLayer} move={cursor.move} origin={origin} hidden={hidden} /></group> : null}
        {beads && props.ghost ? <GhostPath path={props.ghost} z={props.top} origin={origin} /> : null}
        {shape && <Shape shape={shape} layers={layers} paint={paint} most={most} limits={props.limits} ghost={!!beads} cut={beads || marking ? null : props.top + 0.001} onSpot={setSpot} onPick={marking && !beads ? pick : null} />}
        <CursorFlag size={props.size} z={props.top} />
        <Camera size={props.size} fit={fit} />
      </Canvas>
      <div className="absolute top-2 left-3 flex gap-2" role="group" aria-label="What the stage shows">
        <span className="flex">
          {(["shape", "steps", "heights", "beads"] as const).map((name) => (
            <button key={name} className="quiet" aria-pressed={view === name} onClick={() => { setView(name); setSpot(null); }}>{name}</button>
          ))}
        </span>
        <button className="quiet" aria-pressed={marking} onClick={() => { setMarking(!marking); if (!marking && view === "beads") setView("shape"); }}>attention</button>
        <button className="quiet" onClick={() => setFit(fit + 1)}>whole part</button>
      </div>
      {marking && <Attention desk={desk} brush={brush} onBrush={setBrush} seen={surface?.seen_mm2 ?? 0} hidden={surface?.hidden_mm2 ?? 0} />}
      {view === "steps" && <Legend title="step error" unit="µm" from={0} to={most} colours={STEP_COLOURS} format={(v) => String(Math.round(v))} />}
      {view === "heights" && <Legend title="layer height" unit="mm" from={props.limits[0]} to={props.limits[1]} colours={HEIGHT_COLOURS} format={(v) => v.toFixed(2)} />}
      {!beads && spot && (
        <p data-spot className="narrow absolute right-3 bottom-12 bg-sheet/90 px-2 py-0.5 text-[13px]">
          {spot.point[2].toFixed(2)} mm · layer {spot.layer + 1} · {spot.height.toFixed(2)} mm tall · <b>step {Math.round(spot.errorUm)} µm</b> · {Math.round(spot.lean)}° from level{spot.attention === 2 ? " · seen" : spot.attention === 0 ? " · hidden" : ""}
        </p>
      )}
      <p className="narrow absolute bottom-2 left-32 text-[12px] text-ink-3">bed {bed.round ? `Ø ${bed.x}` : `${bed.x} × ${bed.y}`} mm, grid {STEP} mm</p>
      {props.stale && beads && <p className="absolute top-11 right-3 bg-sheet/90 px-2 py-1 text-[13px] text-ink-2">beads of the last exact plan</p>}
      {props.ghost && <p className="absolute top-11 right-3 bg-sheet/90 px-2 py-1 text-[13px]">{beads ? "baseline drawn dashed at this height" : "the baseline's layers are shown"}</p>}
      {view === "beads" && !path && <p role="status" className="absolute top-12 left-3 text-[13px] text-ink-2">The beads appear when the exact plan is there.</p>}
      {beads && (
        <fieldset className="narrow absolute bottom-2 left-3 bg-paper/85 text-[12px]">
          <legend className="sr-only">Features shown on the stage</legend>
          {[...LAID, "travel" as const].filter((name) => path.features.includes(name)).map((name) => (
            <label key={name} className="flex min-h-[19px] items-center gap-1.5">
              <input type="checkbox" checked={!hidden.has(name)} onChange={() => toggle(name)} className="h-3 w-3 accent-ink" />
              <span aria-hidden className="inline-block w-5 border-t-[3px]"
                style={{ borderColor: FEATURES[name].colour, borderTopStyle: name === "travel" ? "dashed" : "solid", borderTopWidth: name === "travel" ? 1 : 3 }} />
              {FEATURES[name].label}
            </label>
          ))}
        </fieldset>
      )}
    </section>
  );
});

/** A round figure not below a value, for the end of a scale. */
function niceAbove(value: number): number {
  return Math.ceil(value / 20) * 20;
}

/** Orbit with the left button, shift with the right; looks at the part whenever its size changes or is asked to. */
function Camera({ size, fit }: { size: readonly number[]; fit: number }) {
  const { camera, gl, invalidate } = useThree();
  const controls = useMemo(() => new OrbitControls(camera, gl.domElement), [camera, gl]);
  const [x = 50, y = 50, z = 50] = size;
  useEffect(() => {
    controls.mouseButtons = { LEFT: MOUSE.ROTATE, MIDDLE: MOUSE.DOLLY, RIGHT: MOUSE.PAN };
    const draw = () => invalidate();
    controls.addEventListener("change", draw);
    return () => {
      controls.removeEventListener("change", draw);
      controls.dispose();
    };
  }, [controls, invalidate]);
  useEffect(() => {
    const radius = Math.hypot(x, y, z) / 2;
    const aspect = camera instanceof PerspectiveCamera ? Math.min(1, camera.aspect) : 1;
    const away = (radius * 4.1) / aspect;
    const target = new Vector3(0, 0, z * 0.45);
    camera.position.copy(new Vector3(0.55, -1, 0.72).normalize().multiplyScalar(away).add(target));
    controls.target.copy(target);
    controls.update();
    invalidate();
  }, [camera, controls, x, y, z, fit, invalidate]);
  return null;
}
