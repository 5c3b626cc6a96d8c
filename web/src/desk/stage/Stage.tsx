import { Canvas, useThree } from "@react-three/fiber";
import { memo, useEffect, useMemo, useState } from "react";
import { MOUSE, PerspectiveCamera, Vector3 } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

import { FEATURES, LAID, type Feature } from "../../tokens";
import type { Cursor } from "../useCursor";
import type { Toolpath } from "../toolpath";
import { Bed, type BedShape, STEP } from "./Bed";
import { Paths } from "./Paths";
import { Shape } from "./Shape";

type View = "shape" | "beads";

export interface StageProps {
  plan: number;
  /** Changes when the part stands differently. */
  placement: string;
  size: readonly number[];
  bed: BedShape;
  path: Toolpath | undefined;
  cursor: Cursor;
  top: number;
  stale: boolean;
}

/** The 3D view: the bed to scale, and the part as shape or as its beads up to the cursor. Drawn again only when one of these changes. */
export const Stage = memo(function Stage(props: StageProps) {
  const [view, setView] = useState<View>("beads");
  const [hidden, setHidden] = useState<ReadonlySet<Feature>>(new Set<Feature>(["travel"]));
  const [fit, setFit] = useState(0);
  const { path, bed, cursor } = props;
  const beads = view === "beads" && path;
  const origin = useMemo<[number, number]>(() => (bed.round ? [0, 0] : [bed.x / 2, bed.y / 2]), [bed]);
  const toggle = (name: Feature) => {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    setHidden(next);
  };
  return (
    <section aria-label="Stage" className="relative h-full min-h-0 overflow-hidden">
      <Canvas flat frameloop="demand" gl={{ localClippingEnabled: true, antialias: true }} dpr={[1, 2]}
        camera={{ fov: 32, up: [0, 0, 1], near: 1, far: 6000 }} aria-label="The part on the bed">
        <hemisphereLight args={["#FFFFFF", "#BDB39C", 2.1]} />
        <directionalLight position={[120, -200, 320]} intensity={1.4} />
        <Bed bed={bed} />
        {beads ? <Paths path={path} layer={cursor.beadLayer} move={cursor.move} origin={origin} hidden={hidden} /> : null}
        <Shape plan={props.plan} placement={props.placement} ghost={!!beads} cut={beads ? null : props.top + 0.001} />
        <Camera size={props.size} fit={fit} />
      </Canvas>
      <div className="absolute top-2 left-3 flex gap-2" role="group" aria-label="What the stage shows">
        {(["shape", "beads"] as const).map((name) => (
          <button key={name} className="quiet" aria-pressed={view === name} onClick={() => setView(name)}>{name}</button>
        ))}
        <button className="quiet" onClick={() => setFit(fit + 1)}>whole part</button>
      </div>
      <p className="narrow absolute bottom-2 left-32 text-[12px] text-ink-3">bed {bed.round ? `Ø ${bed.x}` : `${bed.x} × ${bed.y}`} mm, grid {STEP} mm</p>
      {props.stale && <p className="absolute top-2 right-3 bg-sheet/90 px-2 py-1 text-[13px] text-ink-2">beads of the last exact plan</p>}
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
