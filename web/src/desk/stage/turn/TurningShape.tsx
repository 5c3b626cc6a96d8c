import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import {
  Color,
  DoubleSide,
  Plane,
  Quaternion,
  Raycaster,
  ShaderMaterial,
  TorusGeometry,
  Vector3,
} from "three";

import { FJORD, INK, NORTH, PAPER } from "../../../tokens";
import { LEAN_RAMP } from "../surfaceMaterial";
import type { PartShape } from "../useShape";
import { about, AXES, type Axis, lowest } from "./turning";

const TONES: Record<Axis, string> = { x: NORTH, y: FJORD, z: INK };
const NORMALS: Record<Axis, Vector3> = {
  x: new Vector3(1, 0, 0),
  y: new Vector3(0, 1, 0),
  z: new Vector3(0, 0, 1),
};
/** Turns that bring a ring, which lies around z, around another axis. */
const RING: Record<Axis, [number, number, number]> = {
  x: [0, Math.PI / 2, 0],
  y: [Math.PI / 2, 0, 0],
  z: [0, 0, 0],
};

const VERTEX = `
varying vec3 v_normal; varying float v_z;
void main() { v_normal = mat3(modelMatrix) * normal;
  vec4 at = modelMatrix * vec4(position, 1.0); v_z = at.z;
  gl_Position = projectionMatrix * viewMatrix * at; }`;
const FRAGMENT = `
uniform float u_angle; uniform vec3 u_lean[3]; uniform vec3 u_paper;
varying vec3 v_normal; varying float v_z;
void main() {
  vec3 normal = normalize(v_normal) * (gl_FrontFacing ? 1.0 : -1.0);
  float lean = degrees(asin(clamp(-normal.z, -1.0, 1.0)));
  float t = clamp((lean - u_angle) / max(90.0 - u_angle, 1.0), 0.0, 1.0) * 2.0;
  vec3 out_ = t < 1.0 ? mix(u_lean[0], u_lean[1], t) : mix(u_lean[1], u_lean[2], t - 1.0);
  vec3 colour = lean > u_angle && v_z > 0.02 ? out_ : u_paper;
  float light = 0.62 + 0.26 * max(dot(normal, normalize(vec3(0.35, -0.6, 0.75))), 0.0) +
    0.14 * (0.5 + 0.5 * normal.z);
  gl_FragColor = vec4(colour * light, 1.0);
  #include <colorspace_fragment>
}`;

/** A turn that is being made: about which axis of the bed, and by how much. */
export interface Turning {
  axis: Axis;
  degrees: number;
}

/**
 * The part with a ring about each axis of the bed. A dragged ring turns it; what leans out is
 * painted meanwhile, and it stays on the bed.
 */
export function TurningShape({
  shape,
  size,
  angle,
  turning,
  snap,
  onTurning,
  onTurned,
}: {
  shape: PartShape;
  size: readonly number[];
  angle: number;
  turning: Turning | null;
  /** Degrees a drag goes by. */
  snap: number;
  onTurning: (turning: Turning) => void;
  onTurned: () => void;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const controls = useThree((state) => state.controls);
  const grip = useRef<{ axis: Axis; from: number } | null>(null);
  const material = useMemo(
    () =>
      new ShaderMaterial({
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        side: DoubleSide,
        uniforms: {
          u_angle: { value: 50 },
          u_lean: { value: LEAN_RAMP.map((hex) => new Color(hex)) },
          u_paper: { value: new Color(PAPER) },
        },
      }),
    [],
  );
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => {
    Object.assign(material.uniforms.u_angle ?? {}, { value: angle });
    invalidate();
  }, [material, angle, invalidate]);
  const middle = useMemo(
    () => shape.geometry.boundingSphere?.center.clone() ?? new Vector3(),
    [shape],
  );
  const radius = 0.55 * Math.hypot(...size);
  const ring = useMemo(() => new TorusGeometry(radius, radius * 0.022, 8, 96), [radius]);
  useEffect(() => () => ring.dispose(), [ring]);
  const turn = useMemo(
    () => (turning ? about(turning.axis, turning.degrees) : new Quaternion()),
    [turning],
  );
  const place = useMemo(() => {
    const moved = middle.clone().sub(middle.clone().applyQuaternion(turn));
    return moved.setZ(-lowest(shape.geometry, turn));
  }, [shape, middle, turn]);
  useEffect(() => invalidate(), [place, invalidate]);
  const angleAt = (event: ThreeEvent<PointerEvent>, axis: Axis): number | null => {
    const plane = new Plane().setFromNormalAndCoplanarPoint(NORMALS[axis], middle);
    const hit = new Raycaster(event.ray.origin, event.ray.direction).ray.intersectPlane(
      plane,
      new Vector3(),
    );
    if (!hit) return null;
    const { x, y, z } = hit.sub(middle);
    const [u, v] = axis === "x" ? [y, z] : axis === "y" ? [z, x] : [x, y];
    return (Math.atan2(v, u) * 180) / Math.PI;
  };
  const still = (held: boolean) => {
    if (controls && "enabled" in controls) (controls as { enabled: boolean }).enabled = !held;
  };
  return (
    <>
      <mesh geometry={shape.geometry} material={material} quaternion={turn} position={place} />
      {AXES.map((axis) => (
        <mesh
          key={axis}
          geometry={ring}
          position={middle}
          rotation={RING[axis]}
          userData={{ ring: axis }}
          onPointerDown={(event) => {
            const from = angleAt(event, axis);
            if (event.button !== 0 || from === null) return;
            event.stopPropagation();
            (event.target as Element).setPointerCapture(event.pointerId);
            grip.current = { axis, from };
            still(true);
          }}
          onPointerMove={(event) => {
            if (grip.current?.axis !== axis) return;
            const now = angleAt(event, axis);
            if (now === null) return;
            const by = event.nativeEvent.shiftKey ? 1 : snap;
            const away = ((now - grip.current.from + 540) % 360) - 180;
            onTurning({ axis, degrees: Math.round(away / by) * by });
          }}
          onPointerUp={() => {
            if (grip.current?.axis !== axis) return;
            grip.current = null;
            still(false);
            onTurned();
          }}
        >
          <meshBasicMaterial color={TONES[axis]} />
        </mesh>
      ))}
    </>
  );
}
