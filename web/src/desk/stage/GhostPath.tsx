import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import {
  BufferGeometry,
  Float32BufferAttribute,
  LineBasicMaterial,
  LineDashedMaterial,
  LineSegments,
} from "three";

import { INK } from "../../tokens";
import type { Toolpath } from "../state/toolpath";
import { layerAtHeight } from "../state/useCursor";

/** The baseline's layer at a height, dashed, over this plan's beads. */
export function GhostPath({
  path,
  z,
  origin,
}: {
  path: Toolpath;
  z: number;
  origin: [number, number];
}) {
  const invalidate = useThree((state) => state.invalidate);
  const [dx, dy] = origin;
  const layer = layerAtHeight(path.tops, z);
  const lines = useMemo(() => {
    const points: number[] = [];
    for (
      let k = Math.max(1, path.layerStart[layer] ?? 0);
      k < (path.layerStart[layer + 1] ?? path.count);
      k++
    ) {
      if (!(path.width[k] ?? 0)) continue;
      points.push(
        (path.x[k - 1] ?? 0) - dx,
        (path.y[k - 1] ?? 0) - dy,
        path.z[k] ?? 0,
        (path.x[k] ?? 0) - dx,
        (path.y[k] ?? 0) - dy,
        path.z[k] ?? 0,
      );
    }
    const material: LineBasicMaterial = new LineDashedMaterial({
      color: INK,
      dashSize: 1.2,
      gapSize: 0.8,
      depthTest: false,
    });
    const out = new LineSegments(
      new BufferGeometry().setAttribute("position", new Float32BufferAttribute(points, 3)),
      material,
    );
    out.computeLineDistances();
    out.renderOrder = 4;
    return out;
  }, [path, layer, dx, dy]);
  useEffect(() => invalidate(), [lines, invalidate]);
  useEffect(
    () => () => {
      lines.geometry.dispose();
      lines.material.dispose();
    },
    [lines],
  );
  return <primitive object={lines} />;
}
