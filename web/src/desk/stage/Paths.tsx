import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, Color } from "three";

import { FEATURES, type Feature } from "../../tokens";
import type { Toolpath } from "../toolpath";

/** What the layers below the cursor fade towards. */
const PAPER = new Color("#EDE8DB");
/** Every so many layers one stands out below the cursor, as the counted contour lines of a map do. */
const COUNTED = 10;

interface Built {
  below: BufferGeometry;
  here: BufferGeometry;
  /** Segments (two corners each) before each move. */
  before: Int32Array;
}

/** Segments of the shown features; the faded and the full colours share one set of positions. */
function build(path: Toolpath, dx: number, dy: number, shownFeature: (name: Feature) => boolean): Built {
  const shown = path.features.map(shownFeature);
  const before = new Int32Array(path.count + 1);
  let total = 0;
  for (let k = 0; k < path.count; k++) {
    before[k] = total;
    if (k > 0 && shown[path.feature[k] as number]) total++;
  }
  before[path.count] = total;
  const full = path.features.map((name) => channels(new Color(FEATURES[name]?.colour ?? "#999999")));
  const faded = path.features.map((name) => channels(new Color(FEATURES[name]?.colour ?? "#999999").lerp(PAPER, 0.5)));
  const counted = path.features.map((name) => channels(new Color(FEATURES[name]?.colour ?? "#999999").lerp(PAPER, 0.12)));
  const position = new Float32Array(total * 6);
  const bright = new Uint16Array(total * 6);
  const pale = new Uint16Array(total * 6);
  const { x, y, z, feature, layer } = path;
  let at = 0;
  for (let k = 1; k < path.count; k++) {
    const kind = feature[k] as number;
    if (!shown[kind]) continue;
    position[at] = (x[k - 1] as number) - dx;
    position[at + 1] = (y[k - 1] as number) - dy;
    position[at + 3] = (x[k] as number) - dx;
    position[at + 4] = (y[k] as number) - dy;
    position[at + 2] = position[at + 5] = z[k] as number;
    const strong = full[kind] as Uint16Array;
    const weak = ((layer[k] as number) % COUNTED === COUNTED - 1 ? counted : faded)[kind] as Uint16Array;
    bright.set(strong, at);
    bright.set(strong, at + 3);
    pale.set(weak, at);
    pale.set(weak, at + 3);
    at += 6;
  }
  const shared = new BufferAttribute(position, 3);
  const geometry = (colour: Uint16Array) =>
    new BufferGeometry().setAttribute("position", shared).setAttribute("color", new BufferAttribute(colour, 3, true));
  return { below: geometry(pale), here: geometry(bright), before };
}

/** A colour as three channels in linear light, sixteen bits each. */
function channels(colour: Color): Uint16Array {
  return Uint16Array.from([colour.r, colour.g, colour.b], (value) => Math.round(value * 65535));
}

/** The toolpath up to the cursor: layers below faded, the layer at the cursor in full colour. */
export function Paths({ path, layer, move, origin, hidden }: {
  path: Toolpath; layer: number; move: number | null; origin: [number, number]; hidden: ReadonlySet<Feature>;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const [dx, dy] = origin;
  const laid = useMemo(
    () => build(path, dx, dy, (name) => !hidden.has(name) && name !== "travel" && name !== "start" && name !== "retraction"),
    [path, dx, dy, hidden],
  );
  const travel = useMemo(() => (hidden.has("travel") ? null : build(path, dx, dy, (name) => name === "travel")), [path, dx, dy, hidden]);
  useEffect(() => () => { laid.below.dispose(); laid.here.dispose(); }, [laid]);
  useEffect(() => () => travel?.here.dispose(), [travel]);
  useEffect(() => {
    const first = path.layerStart[layer] ?? 0;
    const last = move === null ? (path.layerStart[layer + 1] ?? path.count) : Math.min(move + 1, path.count);
    const range = (built: Built, geometry: BufferGeometry, from: number, to: number) => {
      const start = built.before[from] ?? 0;
      geometry.setDrawRange(2 * start, 2 * ((built.before[to] ?? 0) - start));
    };
    range(laid, laid.below, 0, first);
    range(laid, laid.here, first, last);
    if (travel) range(travel, travel.here, first, last);
    invalidate();
  }, [laid, travel, path, layer, move, invalidate]);
  return (
    <>
      <lineSegments geometry={laid.below} frustumCulled={false}><lineBasicMaterial vertexColors toneMapped={false} /></lineSegments>
      <lineSegments geometry={laid.here} frustumCulled={false} renderOrder={2}><lineBasicMaterial vertexColors toneMapped={false} depthTest={false} /></lineSegments>
      {travel && <lineSegments geometry={travel.here} frustumCulled={false} renderOrder={2}><lineBasicMaterial vertexColors toneMapped={false} depthTest={false} /></lineSegments>}
    </>
  );
}
