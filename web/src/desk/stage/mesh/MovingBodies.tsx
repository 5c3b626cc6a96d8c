import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import { BufferAttribute, BufferGeometry } from "three";

import { FJORD, INK } from "../../../tokens";
import { BODY_TINTS } from "../surfaceMaterial";
import { useFreeDrag, type Way } from "../useFreeDrag";
import type { PartShape } from "../useShape";

/** Every body by itself, dragged along the bed or, with Shift, up and down. */
export function MovingBodies({
  shape,
  way,
  onWay,
  onDrop,
}: {
  shape: PartShape;
  /** How far which body is from where it was. */
  way: BodyWay | null;
  onWay: (way: BodyWay | null) => void;
  onDrop: (name: string, by: Way) => void;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const geometries = useMemo(() => byBody(shape), [shape]);
  useEffect(() => {
    invalidate();
    return () => geometries.forEach((geometry) => geometry.dispose());
  }, [geometries, invalidate]);
  useEffect(() => invalidate(), [way, invalidate]);
  return (
    <group>
      <directionalLight position={[200, -300, 400]} intensity={1.6} />
      <ambientLight intensity={1.4} />
      {geometries.map((geometry, n) => {
        const name = shape.bodies[n] ?? "";
        return (
          <OneBody
            key={name}
            name={name}
            geometry={geometry}
            tint={BODY_TINTS[n % BODY_TINTS.length] ?? INK}
            by={way?.name === name ? way.by : [0, 0, 0]}
            onMove={(by) => onWay({ name, by })}
            onDrop={(by) => (by.some(Boolean) ? onDrop(name, by) : onWay(null))}
          />
        );
      })}
    </group>
  );
}

/** Millimetres a body is from where it was. */
export interface BodyWay {
  name: string;
  by: Way;
}

function OneBody({
  name,
  geometry,
  tint,
  by,
  onMove,
  onDrop,
}: {
  name: string;
  geometry: BufferGeometry;
  tint: string;
  by: Way;
  onMove: (by: Way) => void;
  onDrop: (by: Way) => void;
}) {
  const [over, setOver] = useState(false);
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => invalidate(), [over, invalidate]);
  const drag = useFreeDrag({ onMove, onDrop });
  return (
    <mesh
      geometry={geometry}
      position={by}
      userData={{ body: name }}
      onPointerOver={(event) => {
        event.stopPropagation();
        setOver(true);
      }}
      onPointerOut={() => setOver(false)}
      onPointerDown={(event) => drag.onPointerDown(event)}
      onPointerMove={drag.onPointerMove}
      onPointerUp={drag.onPointerUp}
    >
      <meshLambertMaterial color={tint} emissive={FJORD} emissiveIntensity={over ? 0.35 : 0} />
    </mesh>
  );
}

/** The facets of each body as a shape of their own. */
function byBody(shape: PartShape): BufferGeometry[] {
  const position = shape.geometry.getAttribute("position").array as Float32Array;
  const owner = shape.geometry.getAttribute("a_body").array as Float32Array;
  const corners: number[][] = shape.bodies.map(() => []);
  for (let k = 0; k < owner.length; k++) {
    const own = corners[owner[k] ?? 0];
    own?.push(position[3 * k] ?? 0, position[3 * k + 1] ?? 0, position[3 * k + 2] ?? 0);
  }
  return corners.map((points) => {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(Float32Array.from(points), 3));
    geometry.computeVertexNormals();
    return geometry;
  });
}
