/**
 * Beads as the machine lays them: width and height true to scale, from any side.
 *
 * Nothing is built on the processor: a vertex looks its move up in textures by its own number, so
 * that scrubbing changes a draw
 * range, another question one texture, and hiding a feature one bit. Six vertices a bead.
 */
import {
  Color,
  DataTexture,
  DoubleSide,
  FloatType,
  NearestFilter,
  type PixelFormat,
  RedFormat,
  RGBAFormat,
  RGFormat,
  ShaderMaterial,
  Vector2,
} from "three";

import { featureOf, PAPER } from "../../../tokens";
import type { Toolpath } from "../../state/toolpath";

/** Vertices a bead takes. */
export const CORNERS = 6;
/** Moves in a row of a texture. */
const ROW = 2048;
/**
 * Every so many layers one stands out below the cursor, as the counted contour lines of a map do.
 */
const COUNTED = 10;
/** Most colours of a scale or of a set of kinds. */
export const COLOURS = 16;

const VERTEX = `
uniform highp sampler2D u_end; uniform highp sampler2D u_kind; uniform highp sampler2D u_value;
uniform int u_shown; uniform vec2 u_origin; uniform float u_below;
varying vec2 v_at; varying vec2 v_long; varying float v_value; varying float v_counted;
varying vec3 v_side; varying vec3 v_view;
ivec2 place(int move) { return ivec2(move % ${ROW}, move / ${ROW}); }
void main() {
  int move = gl_VertexID / ${CORNERS};
  int corner = gl_VertexID % ${CORNERS};
  vec4 end = texelFetch(u_end, place(move), 0);
  vec4 start = texelFetch(u_end, place(max(move - 1, 0)), 0);
  vec2 kind = texelFetch(u_kind, place(move), 0).rg;
  int feature = int(mod(kind.y, 32.0));
  v_value = texelFetch(u_value, place(move), 0).r;
  v_counted = kind.y >= 32.0 ? 1.0 : 0.0;
  float wide = end.w; float tall = kind.x;
  vec3 a = vec3(start.xy - u_origin, start.z - 0.5 * tall);
  vec3 b = vec3(end.xy - u_origin, end.z - 0.5 * tall);
  vec3 way = b - a;
  float far = length(way);
  if (move == 0 || wide <= 0.0 || far < 1e-5 || (u_shown >> feature & 1) == 0) {
  gl_Position = vec4(2.0, 2.0, 2.0, 1.0); return; }
  vec3 along = way / far;
  vec3 view = normalize(cameraPosition - (modelMatrix * vec4(0.5 * (a + b), 1.0)).xyz);
  vec3 side = cross(along, view);
  side = length(side) > 1e-4 ? normalize(side) : vec3(-along.y, along.x, 0.0);
  // half the bead as it is seen from here: its section is taken for an ellipse
  float level = length(side.xy);
  float half_ = 0.5 * length(vec2(wide * level, tall * side.z));
  float reach = 0.5 * wide;
  float s = corner == 0 || corner == 3 || corner == 5 ? -1.0 : 1.0;
  float t = corner == 0 || corner == 1 || corner == 3 ? 0.0 : 1.0;
  v_at = vec2(t > 0.5 ? far + reach : -reach, s);
  v_long = vec2(far, reach);
  v_side = side; v_view = view;
  vec3 at = (t > 0.5 ? b + along * reach : a - along * reach) + side * (s * half_);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(at, 1.0);
}`;

const FRAGMENT = `
uniform vec3 u_colours[${COLOURS}]; uniform int u_count; uniform bool u_kinds;
uniform vec2 u_range; uniform float u_below; uniform vec3 u_paper;
varying vec2 v_at; varying vec2 v_long; varying float v_value; varying float v_counted;
varying vec3 v_side; varying vec3 v_view;
void main() {
  float over = max(-v_at.x, v_at.x - v_long.x) / v_long.y;
  float r = over > 0.0 ? length(vec2(over, v_at.y)) : abs(v_at.y);
  if (r > 1.0) discard;
  vec3 colour;
  if (u_kinds) colour = u_colours[int(v_value + 0.5)];
  else {
    float t = clamp((v_value - u_range.x) / max(u_range.y - u_range.x, 1e-9), 0.0, 1.0) *
      float(u_count - 1);
    int k = min(int(t), u_count - 2);
    colour = mix(u_colours[k], u_colours[k + 1], t - float(k));
  }
  colour = mix(colour, u_paper, u_below * (v_counted > 0.5 ? 0.15 : 0.5));
  // its roundness shows as soon as a bead is more than a few pixels wide
  float near = clamp(1.3 - 1.6 * fwidth(v_at.y), 0.0, 1.0);
  vec3 normal = normalize(v_side * v_at.y + v_view * sqrt(max(1.0 - r * r, 0.02)));
  float light = 0.72 + 0.34 * max(dot(normal, normalize(vec3(0.35, -0.6, 0.75))), 0.0);
  float edge = 1.0 - 0.45 * smoothstep(0.72, 1.0, r);
  gl_FragColor = vec4(colour * mix(0.97, light * edge, near), 1.0);
  #include <colorspace_fragment>
}`;

function texture(values: Float32Array, format: PixelFormat): DataTexture {
  const channels = format === RGBAFormat ? 4 : format === RGFormat ? 2 : 1;
  const out = new DataTexture(values, ROW, values.length / channels / ROW, format, FloatType);
  out.magFilter = out.minFilter = NearestFilter;
  out.needsUpdate = true;
  return out;
}

const room = (count: number) => ROW * Math.max(1, Math.ceil(count / ROW));

/**
 * Where moves end and how wide they are, how tall, and which feature: one pair of textures a
 * toolpath.
 */
export function beadTextures(path: Toolpath): { end: DataTexture; kind: DataTexture } {
  const cells = room(path.count);
  const end = new Float32Array(4 * cells);
  const kind = new Float32Array(2 * cells);
  const { x, y, z, width, height, feature, layer } = path;
  for (let k = 0; k < path.count; k++) {
    end[4 * k] = x[k] as number;
    end[4 * k + 1] = y[k] as number;
    end[4 * k + 2] = z[k] as number;
    end[4 * k + 3] = width[k] as number;
    kind[2 * k] = height[k] as number;
    kind[2 * k + 1] =
      (feature[k] as number) + ((layer[k] as number) % COUNTED === COUNTED - 1 ? 32 : 0);
  }
  return { end: texture(end, RGBAFormat), kind: texture(kind, RGFormat) };
}

/** What beads are coloured by, one number a move. */
export function valueTexture(path: Toolpath, values: Float32Array): DataTexture {
  const cells = new Float32Array(room(path.count));
  cells.set(values);
  return texture(cells, RedFormat);
}

export function beadMaterial(below: boolean): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: DoubleSide,
    uniforms: {
      u_end: { value: null },
      u_kind: { value: null },
      u_value: { value: null },
      u_shown: { value: -1 },
      u_origin: { value: new Vector2() },
      u_below: { value: below ? 1 : 0 },
      u_colours: { value: colourList([]) },
      u_count: { value: 2 },
      u_kinds: { value: true },
      u_range: { value: new Vector2(0, 1) },
      u_paper: { value: new Color(PAPER) },
    },
  });
}

/** Colours of a scale from low to high, or of kinds by their number. */
export function colourList(colours: string[]): Color[] {
  return Array.from({ length: COLOURS }, (_, k) => new Color(colours[k] ?? "#999999"));
}

export const featureColours = (path: Toolpath): string[] =>
  path.features.map((name) => featureOf(name)?.colour ?? "#999999");
