/**
 * How the part is drawn: by body, by step error or by layer height, for each point as it will be,
 * with its real steps when close.
 */
import {
  Color,
  DataTexture,
  DoubleSide,
  FloatType,
  NearestFilter,
  RGBAFormat,
  RGFormat,
  ShaderMaterial,
} from "three";

import { FJORD, HEIGHT_RAMP, NORTH, PAPER, TONES } from "../../tokens";

export type Paint = "shape" | "steps" | "heights" | "leans";
/** What leans out, from just beyond the angle to level. */
export const LEAN_RAMP = ["#E3BE86", "#B5603A", "#5A1020"];

/** A place of a brush on the bed, and what it does there. */
export interface Dab {
  at: readonly [number, number, number];
  radius: number;
  does: "ask" | "forbid" | "erase";
  /** Whether the brush came here from the one before. */
  joined: boolean;
}
const DOES = { ask: 1, forbid: 2, erase: 0 } as const;
/** Bodies of one file by turns; their names stand in the placement instrument in the same order. */
export const BODY_TINTS = ["#EDE4D0", "#CFC6DB", "#C6D6CB", "#E2C9BB"];
const BINS = 4096;

const VERTEX = `
attribute float a_slope; attribute float a_body; attribute float a_flat;
attribute float a_attention;
varying vec3 v_at; varying vec3 v_normal; varying float v_slope; varying float v_body;
varying float v_flat; varying float v_attention;
void main() {
  v_at = position; v_normal = normal; v_slope = a_slope; v_body = a_body; v_flat = a_flat;
  v_attention = a_attention;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;

const FRAGMENT = `
uniform sampler2D u_layers; uniform float u_top; uniform float u_cut; uniform int u_paint;
uniform float u_most; uniform vec2 u_limits;
uniform float u_angle; uniform vec3 u_lean[3]; uniform highp sampler2D u_dabs;
uniform int u_dab_count; uniform vec3 u_asked; uniform vec3 u_forbidden;
uniform vec3 u_tints[4]; uniform vec3 u_ramp[3]; uniform vec3 u_paper; uniform vec3 u_north;
varying vec3 v_at; varying vec3 v_normal; varying float v_slope; varying float v_body;
varying float v_flat; varying float v_attention;
void main() {
  if (v_at.z > u_cut) discard;
  vec2 layer = texture2D(u_layers, vec2(clamp(v_at.z / u_top, 0.0, 0.99999), 0.5)).rg;
  float error = v_flat > 0.5 ? min(abs(v_at.z - layer.x), abs(layer.x + layer.y - v_at.z)) :
    layer.y * abs(v_slope);
  vec3 colour;
  if (u_paint == 1) colour = mix(u_paper, u_north, clamp(error / u_most, 0.0, 1.0));
  else if (u_paint == 2) {
    float t = clamp((u_limits.y - layer.y) / (u_limits.y - u_limits.x), 0.0, 1.0) * 2.0;
    colour = t < 1.0 ? mix(u_ramp[0], u_ramp[1], t) : mix(u_ramp[1], u_ramp[2], t - 1.0);
  } else if (u_paint == 3) {
    float lean = degrees(asin(clamp(-v_slope, -1.0, 1.0)));
    float t = clamp((lean - u_angle) / max(90.0 - u_angle, 1.0), 0.0, 1.0) * 2.0;
    vec3 out_ = t < 1.0 ? mix(u_lean[0], u_lean[1], t) : mix(u_lean[1], u_lean[2], t - 1.0);
    colour = lean > u_angle && v_at.z > 0.02 ? out_ : u_paper;
  } else {
    colour = u_tints[int(mod(v_body + 0.5, 4.0))];
    if (v_attention > 1.5) colour = mix(colour, vec3(0.12, 0.40, 0.44), 0.55);
    if (v_attention < 0.5) colour = mix(colour, vec3(0.55), 0.6) * (0.86 + 0.14 * step(0.5,
      fract((v_at.x + v_at.y + v_at.z) * 0.5)));
  }
  int does = 0;
  for (int k = 0; k < u_dab_count; k++) {
    vec4 dab = texelFetch(u_dabs, ivec2(k, 0), 0);
    vec2 kind = texelFetch(u_dabs, ivec2(k, 1), 0).rg;
    vec3 from = kind.g > 0.5 ? texelFetch(u_dabs, ivec2(k - 1, 0), 0).xyz : dab.xyz;
    vec3 way = dab.xyz - from;
    float t = clamp(dot(v_at - from, way) / max(dot(way, way), 1e-9), 0.0, 1.0);
    if (distance(v_at, from + t * way) < dab.w) does = int(kind.r + 0.5);
  }
  if (does > 0 && v_slope < -0.001) {
    vec3 tone = does == 1 ? u_asked : u_forbidden;
    // told apart without colour: what is forbidden is barred
    float bar = step(0.5, fract((v_at.x + v_at.y) * 0.6));
    colour = mix(colour, tone, does == 1 ? 0.7 : 0.35 + 0.45 * bar);
  }
  vec3 normal = normalize(v_normal) * (gl_FrontFacing ? 1.0 : -1.0);
  // close enough to tell layers apart: risers where the outline is, treads between them
  float t = clamp((v_at.z - layer.x) / max(layer.y, 1e-4), 0.0, 1.0);
  float pixel = fwidth(v_at.z) / max(layer.y, 1e-4);
  float close = clamp(1.0 - 1.8 * pixel, 0.0, 1.0) * (1.0 - v_flat);
  vec3 side = vec3(normal.xy, 0.0);
  float flatness = abs(normal.z);
  vec3 riser = length(side) > 1e-4 ? normalize(side + vec3(0.0, 0.0, (t - 0.5) * 1.2)) : normal;
  vec3 tread = vec3(0.0, 0.0, normal.z < 0.0 ? -1.0 : 1.0);
  float onRiser = 1.0 - smoothstep(0.5 - 0.5 * flatness - 0.08, 0.5 - 0.5 * flatness + 0.08,
    abs(t - 0.5));
  vec3 stepped = mix(tread, riser, flatness < 0.02 ? 1.0 : onRiser);
  normal = normalize(mix(normal, stepped, 0.85 * close));
  float groove = 1.0 - 0.22 * close * smoothstep(0.42, 0.5, abs(t - 0.5));
  float light = 0.62 + 0.26 * max(dot(normal, normalize(vec3(0.35, -0.6, 0.75))), 0.0) +
    0.14 * (0.5 + 0.5 * normal.z);
  gl_FragColor = vec4(colour * light * groove, 1.0);
  #include <colorspace_fragment>
}`;

const linear = (hex: string) => new Color(hex);

export function surfaceMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: DoubleSide,
    uniforms: {
      u_layers: { value: layerTexture([], []) },
      u_top: { value: 1 },
      u_cut: { value: 1e9 },
      u_paint: { value: 0 },
      u_most: { value: 0.2 },
      u_limits: { value: [0.08, 0.3] },
      u_tints: { value: BODY_TINTS.map(linear) },
      u_ramp: { value: HEIGHT_RAMP.map(linear) },
      u_angle: { value: 50 },
      u_lean: { value: LEAN_RAMP.map(linear) },
      u_dabs: { value: dabTexture([]) },
      u_dab_count: { value: 0 },
      u_asked: { value: linear(FJORD) },
      u_forbidden: { value: linear(TONES.stop) },
      u_paper: { value: linear(PAPER) },
      u_north: { value: linear(NORTH) },
    },
  });
}

/** Bottom and height of the layer at every height, in equal bins from the plate to the top. */
export function layerTexture(tops: number[], heights: number[]): DataTexture {
  const values = new Float32Array(2 * BINS);
  const top = tops.at(-1) ?? 1;
  let k = 0;
  for (let n = 0; n < BINS; n++) {
    const z = ((n + 0.5) / BINS) * top;
    while (k < tops.length - 1 && (tops[k] ?? 0) < z) k++;
    values[2 * n] = (tops[k] ?? 1) - (heights[k] ?? 1);
    values[2 * n + 1] = heights[k] ?? 1;
  }
  const texture = new DataTexture(values, BINS, 1, RGFormat, FloatType);
  texture.magFilter = texture.minFilter = NearestFilter;
  texture.needsUpdate = true;
  return texture;
}

/** Most dabs that are drawn; the newest are. */
const MOST_DABS = 512;

/** Dabs for the shader: place and radius in the first row, what they do in the second. */
export function dabTexture(dabs: readonly Dab[]): DataTexture {
  const some = dabs.slice(-MOST_DABS);
  const wide = Math.max(some.length, 1);
  const values = new Float32Array(8 * wide);
  some.forEach(({ at, radius, does, joined }, k) => {
    values.set([...at, radius], 4 * k);
    values.set([DOES[does], joined && k > 0 ? 1 : 0, 0, 0], 4 * (wide + k));
  });
  const texture = new DataTexture(values, wide, 2, RGBAFormat, FloatType);
  texture.magFilter = texture.minFilter = NearestFilter;
  texture.needsUpdate = true;
  return texture;
}
