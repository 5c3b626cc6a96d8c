import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { Color, DoubleSide, ShaderMaterial } from "three";

import { FJORD, NORTH, PAPER } from "../../../tokens";
import type { MeshSurfaces, When } from "./useMeshChanges";

/** Kept, added, dropped, turned; each has a pattern of its own as well. */
export const STATE_COLOURS = [PAPER, FJORD, NORTH, "#7B5EA7"] as const;

const VERTEX = `
attribute float a_state; varying float v_state; varying vec3 v_normal;
void main() { v_state = a_state; v_normal = normal;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }`;

// bars one way for what was added, the other way for what was dropped, dots for what was turned
const FRAGMENT = `
uniform vec3 u_tones[4]; varying float v_state; varying vec3 v_normal;
void main() {
  int state = int(v_state + 0.5);
  vec3 normal = normalize(v_normal) * (gl_FrontFacing ? 1.0 : -1.0);
  float light = 0.62 + 0.26 * max(dot(normal, normalize(vec3(0.35, -0.6, 0.75))), 0.0) +
    0.14 * (0.5 + 0.5 * normal.z);
  vec2 at = gl_FragCoord.xy;
  float bar = state == 1 ? step(0.35, fract((at.x + at.y) / 9.0)) :
    state == 2 ? step(0.35, fract((at.x - at.y) / 9.0)) :
    1.0 - step(length(fract(at / 8.0) - 0.5), 0.22);
  vec3 colour = state == 0 ? u_tones[0] : mix(u_tones[0], u_tones[state], 0.35 + 0.65 * bar);
  gl_FragColor = vec4(colour * light, 1.0);
  #include <colorspace_fragment>
}`;

/** The file's surface before mending or after it, with what was added, dropped and turned. */
export function MeshSurface({ surfaces, when }: { surfaces: MeshSurfaces; when: When }) {
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(
    () =>
      new ShaderMaterial({
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        side: DoubleSide,
        uniforms: { u_tones: { value: STATE_COLOURS.map((hex) => new Color(hex)) } },
      }),
    [],
  );
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => invalidate(), [surfaces, when, invalidate]);
  return <mesh geometry={surfaces[when]} material={material} />;
}
