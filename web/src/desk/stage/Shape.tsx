import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Plane, Vector3 } from "three";
import { STLLoader } from "three/addons/loaders/STLLoader.js";

import { binary } from "../../api/client";

/** The part as placed; solid on its own, a pale ghost behind its toolpath. */
export function Shape({ plan, placement, ghost, cut }: { plan: number; placement: string; ghost: boolean; cut: number | null }) {
  const shape = useQuery({
    queryKey: ["shape", plan, placement],
    queryFn: async () => {
      const geometry = new STLLoader().parse(await binary(`/api/plans/${plan}/shape`));
      geometry.computeVertexNormals();
      return geometry;
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
        <meshStandardMaterial color="#EDE4D0" roughness={0.95} flatShading clippingPlanes={planes} side={2} />
      )}
    </mesh>
  );
}
