import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import type { Camera as ThreeCamera, Vector3 } from "three";

import { Beads } from "../desk/stage/beads/Beads";
import { answer as answerTo } from "../desk/stage/beads/questions";
import { Bed, type BedShape } from "../desk/stage/Bed";
import { Camera } from "../desk/stage/Camera";
import { DENSITY, SOFTWARE } from "../desk/stage/graphics";
import { type Toolpath, useToolpath } from "../desk/state/toolpath";
import { layerAtHeight } from "../desk/state/useCursor";
import { type ComparedPlan, titleOf } from "./useCompared";

const NOTHING_HIDDEN: ReadonlySet<never> = new Set<never>();

/** One view for several stages: where a hand turns one of them, the others follow. */
class Together {
  private followers = new Set<(from: object, camera: ThreeCamera, target: Vector3) => void>();
  follow(act: (from: object, camera: ThreeCamera, target: Vector3) => void) {
    this.followers.add(act);
    return () => {
      this.followers.delete(act);
    };
  }
  moved(from: object, camera: ThreeCamera, target: Vector3) {
    for (const act of this.followers) act(from, camera, target);
  }
}

/** Two plans beside each other, at the same height and from the same side. */
export function SplitStage({ plans, z }: { plans: ComparedPlan[]; z: number }) {
  const view = useMemo(() => new Together(), []);
  return (
    <div className="grid h-72 grid-cols-2 gap-px bg-hairline">
      {plans.map((plan) => (
        <Half key={plan.version} plan={plan} z={z} view={view} />
      ))}
    </div>
  );
}

function Half({ plan, z, view }: { plan: ComparedPlan; z: number; view: Together }) {
  const bed = useMemo<BedShape>(
    () => ({
      round: plan.bed.round,
      x: plan.bed.x,
      y: plan.bed.y,
      z: plan.bed.z,
      origin: [plan.bed.origin_x, plan.bed.origin_y],
    }),
    [plan.bed],
  );
  const path = useToolpath(plan.version).data;
  return (
    <section aria-label={`Stage of ${titleOf(plan)}`} className="relative bg-paper">
      <Canvas
        flat
        frameloop="demand"
        gl={{ antialias: !SOFTWARE }}
        dpr={DENSITY}
        camera={{ fov: 32, up: [0, 0, 1], near: 1, far: 6000 }}
      >
        <Bed bed={bed} />
        {path && <Layers path={path} z={z} bed={bed} />}
        <Camera size={plan.size_mm} fit={0} focus={null} />
        <Shared view={view} />
      </Canvas>
      <p className="narrow absolute top-1 left-2 text-[13px]">
        <b>{titleOf(plan)}</b>{" "}
        <span className="text-ink-2">
          {plan.machine}, {plan.material}
          {path ? "" : " · fetching its beads …"}
        </span>
      </p>
    </section>
  );
}

function Layers({ path, z, bed }: { path: Toolpath; z: number; bed: BedShape }) {
  const answer = useMemo(() => answerTo("what", path, null, 1, 1), [path]);
  return (
    <Beads
      path={path}
      answer={answer}
      layer={layerAtHeight(path.tops, z)}
      move={null}
      origin={bed.origin}
      hidden={NOTHING_HIDDEN}
      below
    />
  );
}

/** Tells the others when this stage is turned, and follows when one of them is. */
function Shared({ view }: { view: Together }) {
  const { camera, controls, invalidate } = useThree();
  useEffect(() => {
    const mine = controls as unknown as {
      target: Vector3;
      update: () => void;
      addEventListener: (name: string, act: () => void) => void;
      removeEventListener: (name: string, act: () => void) => void;
    } | null;
    if (!mine) return;
    let following = false;
    const tell = () => {
      if (!following) view.moved(mine, camera, mine.target);
    };
    mine.addEventListener("change", tell);
    const stop = view.follow((from, other, target) => {
      if (from === mine) return;
      following = true;
      camera.position.copy(other.position);
      mine.target.copy(target);
      mine.update();
      following = false;
      invalidate();
    });
    return () => {
      mine.removeEventListener("change", tell);
      stop();
    };
  }, [view, camera, controls, invalidate]);
  return null;
}
