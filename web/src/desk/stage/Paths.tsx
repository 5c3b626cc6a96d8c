import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, Color } from "three";

import { FEATURES, type Feature } from "../../tokens";
import type { Toolpath } from "../toolpath";

interface Built {
  geometry: BufferGeometry;
  /** Segment index (two vertices each) before each move. */
  before: Int32Array;
}

function build(path: Toolpath, dx: number, dy: number, hidden: ReadonlySet<Feature>, faded: boolean): Built {
  const shown = path.features.map((name) => !hidden.has(name) && name !== "start" && name !== "retraction");
  const colours = path.features.map((name) => new Color(FEATURES[name]?.colour ?? "#999999"));
  const paper = new Color("#EDE8DB");

  const before = new Int32Array(path.count + 1);
  let total = 0;
  for (let k = 0; k < path.count; k++) {
    before[k] = total;
    if (k > 0 && shown[path.feature[k] ?? 0]) total++;
  }
  before[path.count] = total;
  const position = new Float32Array(total * 6);
  const colour = new Uint16Array(total * 6);
  const c = new Color();
  let at = 0;
  for (let k = 1; k < path.count; k++) {
    if (!shown[path.feature[k] ?? 0]) continue;
    c.copy(colours[path.feature[k] ?? 0] as Color);
    // below the cursor every tenth layer stands out, as the counted contour lines of a map do
    if (faded) c.lerp(paper, (path.layer[k] ?? 0) % 10 === 9 ? 0.12 : 0.5);
    position.set([
      (path.x[k - 1] ?? 0) - dx, (path.y[k - 1] ?? 0) - dy, path.z[k] ?? 0,
      (path.x[k] ?? 0) - dx, (path.y[k] ?? 0) - dy, path.z[k] ?? 0,
    ], at);
    for (let v = 0; v < 6; v += 3) {
      colour[at + v] = c.r * 65535;
      colour[at + v + 1] = c.g * 65535;
      colour[at + v + 2] = c.b * 65535;
    }
    at += 6;
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(position, 3));
  geometry.setAttribute("color", new BufferAttribute(colour, 3, true));
  return { geometry, before };
}

/** The toolpath up to the cursor: layers below faded, the layer at the cursor in full colour. */
export function Paths({ path, layer, move, origin, hidden }: {
  path: Toolpath; layer: number; move: number | null; origin: [number, number]; hidden: ReadonlySet<Feature>;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const [dx, dy] = origin;
  const below = useMemo(() => build(path, dx, dy, new Set<Feature>([...hidden, "travel"]), true), [path, dx, dy, hidden]);
  const here = useMemo(() => build(path, dx, dy, hidden, false), [path, dx, dy, hidden]);
  useEffect(() => () => below.geometry.dispose(), [below]);
  useEffect(() => () => here.geometry.dispose(), [here]);
  useEffect(() => {
    const first = path.layerStart[layer] ?? 0;
    const last = move === null ? (path.layerStart[layer + 1] ?? path.count) : Math.min(move + 1, path.count);
    below.geometry.setDrawRange(0, 2 * (below.before[first] ?? 0));
    const start = here.before[first] ?? 0;
    here.geometry.setDrawRange(2 * start, 2 * ((here.before[last] ?? 0) - start));
    invalidate();
  }, [below, here, path, layer, move, invalidate]);
  return (
    <>
      <lineSegments geometry={below.geometry} frustumCulled={false}><lineBasicMaterial vertexColors toneMapped={false} /></lineSegments>
      <lineSegments geometry={here.geometry} frustumCulled={false} renderOrder={2}><lineBasicMaterial vertexColors toneMapped={false} depthTest={false} /></lineSegments>
    </>
  );
}
