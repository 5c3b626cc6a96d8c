import { Canvas } from "@react-three/fiber";
import { useMemo, useState } from "react";
import { BufferGeometry, Float32BufferAttribute, Shape, ShapeGeometry, Vector2 } from "three";

import { Beads } from "../desk/stage/beads/Beads";
import { BeadLegend } from "../desk/stage/beads/Inspector";
import { answer as answerTo } from "../desk/stage/beads/questions";
import { Camera } from "../desk/stage/Camera";
import { DENSITY, SOFTWARE } from "../desk/stage/graphics";
import { moveAt, type Toolpath } from "../desk/state/toolpath";
import type { Feature } from "../tokens";
import { boxOf, type Ring } from "./geometry";
import type { Bed } from "./useBed";
import { NORTH, SHEET, EDGE, TONES } from "../tokens";

/** The beads of a bed up to a moment, all of them where none is chosen. */
export function BedStage({
  bed,
  path,
  at,
}: {
  bed: Bed;
  path: Toolpath | undefined;
  at: number | null;
}) {
  const [hidden, setHidden] = useState<ReadonlySet<Feature>>(new Set<Feature>());
  const answer = useMemo(() => (path ? answerTo("what", path, null, 0, 0) : null), [path]);
  const box = boxOf(bed.plate.outline[0] ?? [[0, 0]]);
  const tall = path?.tops.at(-1) ?? 0;
  const [wide, deep] = [box.high[0] - box.low[0], box.high[1] - box.low[1]];
  const size = useMemo(() => [0.8 * wide, 0.8 * deep, tall], [wide, deep, tall]);
  const [x = 0, y = 0] = bed.plate.origin;
  const origin = useMemo<[number, number]>(() => [x, y], [x, y]);
  const move = path ? (at === null ? path.count - 1 : moveAt(path, at)) : 0;
  return (
    <section aria-label="Beads of the bed" className="relative h-full min-h-0 overflow-hidden">
      <Canvas
        flat
        frameloop="demand"
        gl={{ antialias: !SOFTWARE }}
        dpr={DENSITY}
        camera={{ fov: 32, up: [0, 0, 1], near: 1, far: 6000 }}
        aria-label="What is laid on the bed"
      >
        <Plate bed={bed} />
        {path && answer && (
          <>
            {/* all in full colour: parts that are finished in turn are not below anything */}
            <Beads
              path={path}
              answer={answer}
              layer={0}
              move={move}
              origin={origin}
              hidden={hidden}
              below
            />
            <Head path={path} move={move} origin={origin} />
          </>
        )}
        <Camera size={size} fit={0} focus={null} />
      </Canvas>
      {!path && (
        <p role="status" className="absolute top-3 left-3 text-[13px] text-ink-2">
          The beads appear when the bed is exact.
        </p>
      )}
      {path && answer && (
        <BeadLegend path={path} answer={answer} hidden={hidden} onHidden={setHidden} />
      )}
    </section>
  );
}

/** Where the nozzle is: a line down to its tip. */
function Head({
  path,
  move,
  origin,
}: {
  path: Toolpath;
  move: number;
  origin: [number, number];
}) {
  const [x, y, z] = [
    (path.x[move] ?? 0) - origin[0],
    (path.y[move] ?? 0) - origin[1],
    path.z[move] ?? 0,
  ];
  const line = useMemo(() => lines([[0, 0, 0, 0, 0, 30]]), []);
  return (
    <group position={[x, y, z]}>
      <lineSegments geometry={line}>
        <lineBasicMaterial color={NORTH} />
      </lineSegments>
      <mesh position={[0, 0, 4]} rotation={[-Math.PI / 2, 0, 0]}>
        <coneGeometry args={[2.5, 8, 24]} />
        <meshBasicMaterial color={NORTH} />
      </mesh>
    </group>
  );
}

function Plate({ bed }: { bed: Bed }) {
  const { outline, keep_out: kept } = bed.plate;
  const [sheet, rim, closed] = useMemo(() => {
    const ring = outline[0] ?? [];
    const shape = new Shape(ring.map(([x = 0, y = 0]) => new Vector2(x, y)));
    return [
      new ShapeGeometry(shape),
      lines([loop(ring)]),
      lines(kept.flatMap((place) => place.outline.map(loop))),
    ];
  }, [outline, kept]);
  return (
    <>
      <mesh geometry={sheet} position={[0, 0, -0.4]}>
        <meshBasicMaterial color={SHEET} />
      </mesh>
      <lineSegments geometry={rim}>
        <lineBasicMaterial color={EDGE} />
      </lineSegments>
      <lineSegments geometry={closed}>
        <lineBasicMaterial color={TONES.stop} />
      </lineSegments>
    </>
  );
}

/** A ring as segments on the bed. */
const loop = (ring: Ring): number[] =>
  ring.flatMap(([x = 0, y = 0], k) => {
    const [u = 0, v = 0] = ring[(k + 1) % ring.length] ?? [];
    return [x, y, 0, u, v, 0];
  });

const lines = (segments: number[][]): BufferGeometry =>
  new BufferGeometry().setAttribute(
    "position",
    new Float32BufferAttribute(segments.flat(), 3),
  );
