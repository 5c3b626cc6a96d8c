import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferGeometry, type ShaderMaterial, Vector2 } from "three";

import type { Feature } from "../../../tokens";
import type { Toolpath } from "../../state/toolpath";
import { UNTOUCHED } from "../screenPoints";
import { beadMaterial, beadTextures, colourList, CORNERS, valueTexture } from "./beadMaterial";
import type { Answer } from "./questions";

/**
 * All beads up to the cursor: layers below faded, or left out, the layer at the cursor in full
 * colour.
 */
export function Beads({
  path,
  answer,
  layer,
  move,
  origin,
  hidden,
  below,
}: {
  path: Toolpath;
  answer: Answer;
  layer: number;
  move: number | null;
  origin: [number, number];
  hidden: ReadonlySet<Feature>;
  below: boolean;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const materials = useMemo(
    () => ({ under: beadMaterial(true), here: beadMaterial(false) }),
    [],
  );
  const geometries = useMemo(
    () => ({ under: new BufferGeometry(), here: new BufferGeometry() }),
    [],
  );
  const textures = useMemo(() => beadTextures(path), [path]);
  const values = useMemo(() => valueTexture(path, answer.values), [path, answer]);
  useEffect(
    () => () => {
      materials.under.dispose();
      materials.here.dispose();
      geometries.under.dispose();
      geometries.here.dispose();
    },
    [materials, geometries],
  );
  useEffect(
    () => () => {
      textures.end.dispose();
      textures.kind.dispose();
    },
    [textures],
  );
  useEffect(() => () => values.dispose(), [values]);
  useEffect(() => {
    const shown = path.features.reduce(
      (bits, name, k) => (hidden.has(name) ? bits : bits | (1 << k)),
      0,
    );
    const colours = colourList(answer.colours);
    for (const material of [materials.under, materials.here]) {
      put(material, "u_end", textures.end);
      put(material, "u_kind", textures.kind);
      put(material, "u_value", values);
      put(material, "u_shown", shown);
      put(material, "u_origin", new Vector2(...origin));
      put(material, "u_colours", colours);
      put(material, "u_count", Math.max(2, answer.colours.length));
      put(material, "u_kinds", answer.kinds !== null);
      put(material, "u_range", new Vector2(...answer.range));
    }
    invalidate();
  }, [materials, textures, values, path, hidden, answer, origin, invalidate]);
  useEffect(() => {
    const first = path.layerStart[layer] ?? 0;
    const last =
      move === null
        ? (path.layerStart[layer + 1] ?? path.count)
        : Math.min(move + 1, path.count);
    geometries.under.setDrawRange(0, below ? CORNERS * first : 0);
    geometries.here.setDrawRange(CORNERS * first, CORNERS * Math.max(0, last - first));
    invalidate();
  }, [geometries, path, layer, move, below, invalidate]);
  return (
    <>
      <mesh
        geometry={geometries.under}
        material={materials.under}
        frustumCulled={false}
        raycast={UNTOUCHED}
      />
      <mesh
        geometry={geometries.here}
        material={materials.here}
        frustumCulled={false}
        renderOrder={2}
        raycast={UNTOUCHED}
      />
    </>
  );
}

function put(material: ShaderMaterial, name: string, value: unknown) {
  (material.uniforms[name] as { value: unknown }).value = value;
}
