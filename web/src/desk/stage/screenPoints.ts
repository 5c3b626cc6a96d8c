/** Marks that are always the same size on the screen and never hidden by the part. */
import { BufferAttribute, BufferGeometry, Color, Points, ShaderMaterial } from "three";

/**
 * Points at places (x, y, z one after the other), each of a kind. `shape` is the body of a shader
 * that leaves `r` (0 in the middle, 1 at
 * the edge, above it nothing) and `colour` for a place `d` (−1 to 1) of a point of kind `k`; it
 * may use `tones` and `halo`.
 */
export function screenPoints(
  places: ArrayLike<number>,
  kinds: ArrayLike<number>,
  size: number,
  tones: string[],
  halo: string,
  shape: string,
): Points {
  const geometry = new BufferGeometry()
    .setAttribute("position", new BufferAttribute(Float32Array.from(places), 3))
    .setAttribute("a_kind", new BufferAttribute(Float32Array.from(kinds), 1));
  const out = new Points(
    geometry,
    new ShaderMaterial({
      depthTest: false,
      transparent: true,
      uniforms: {
        tones: { value: tones.map((hex) => new Color(hex)) },
        halo: { value: new Color(halo) },
      },
      vertexShader: `attribute float a_kind; varying float v_kind;
      void main() { v_kind = a_kind;
      gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
      gl_PointSize = ${size.toFixed(1)}; }`,
      fragmentShader: `uniform vec3 tones[${tones.length}]; uniform vec3 halo; varying float v_kind;
      void main() { vec2 d = 2.0 * gl_PointCoord - 1.0; int k = int(v_kind + 0.5); float r;
      vec3 colour;
        ${shape}
        if (r > 0.97) discard;
        gl_FragColor = vec4(colour, 1.0);
        #include <colorspace_fragment>
      }`,
    }),
  );
  out.frustumCulled = false;
  out.renderOrder = 6;
  return out;
}

export function discard(points: Points) {
  points.geometry.dispose();
  (points.material as ShaderMaterial).dispose();
}

/** What points are when nothing can be done with them. */
export const UNTOUCHED = () => undefined;
