import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { BufferAttribute, type BufferGeometry, Color, Plane, Vector3 } from "three";
import { STLLoader } from "three/addons/loaders/STLLoader.js";

import { binary } from "../../api/client";

/** Bodies of one file by turns; their names stand in the placement instrument in the same order. */
export const BODY_TINTS = ["#EDE4D0", "#CFC6DB", "#C6D6CB", "#E2C9BB"];

/** Colours by body: the service writes a facet's body into the two bytes that end its record. */
function tinted(geometry: BufferGeometry, buffer: ArrayBuffer): BufferGeometry {
  const view = new DataView(buffer);
  const facets = geometry.getAttribute("position").count / 3;
  const tints = BODY_TINTS.map((tint) => new Color(tint).toArray());
  const colour = new Float32Array(facets * 9);
  for (let k = 0; k < facets; k++) {
    const tint = tints[view.getUint16(84 + 50 * k + 48, true) % tints.length] as number[];
    for (let v = 0; v < 9; v += 3) colour.set(tint, 9 * k + v);
  }
  return geometry.setAttribute("color", new BufferAttribute(colour, 3));
}

/** The part as placed; solid on its own, a pale ghost behind its toolpath. */
export function Shape({ plan, placement, ghost, cut }: { plan: number; placement: string; ghost: boolean; cut: number | null }) {
  const shape = useQuery({
    queryKey: ["shape", plan, placement],
    queryFn: async () => {
      const buffer = await binary(`/api/plans/${plan}/shape`);
      const geometry = new STLLoader().parse(buffer);
      geometry.computeVertexNormals();
      return tinted(geometry, buffer);
    },
    staleTime: Infinity,
    gcTime: 30_000,
    placeholderData: (before) => before,
  });
  const planes = useMemo(() => (cut === null ? [] : [new Plane(new Vector3(0, 0, -1), cut)]), [cut]);
  if (!shape.data) return null;
  return (
    <mesh geometry={shape.data} renderOrder={ghost ? 3 : 0}>
      {ghost ? (
        <meshBasicMaterial color="#8E8777" transparent opacity={0.12} depthWrite={false} />
      ) : (
        <meshStandardMaterial vertexColors roughness={0.95} flatShading clippingPlanes={planes} side={2} />
      )}
    </mesh>
  );
}
