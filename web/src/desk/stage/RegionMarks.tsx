import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import { BufferAttribute, BufferGeometry, Vector3 } from "three";

import { FJORD, NORTH } from "../../tokens";
import type { RegionLines } from "../panels/places/useRegionLines";
import { useFreeDrag, type Way } from "./useFreeDrag";

export interface Grip {
  n: number;
  at: [number, number, number];
}

/**
 * Regions as contour lines, the one looked at in full strength; those that lie free are dragged by
 * their middle, along the bed or, with Shift, up and down.
 */
export function RegionMarks({
  lines,
  picked,
  drawn,
  grips,
  size,
  onPick,
  onDrop,
}: {
  lines: RegionLines[];
  picked: number | null;
  drawn: [number, number, number][];
  grips: Grip[];
  size: number;
  onPick: (n: number) => void;
  onDrop: (n: number, by: [number, number, number]) => void;
}) {
  const [moved, setMoved] = useState<{ n: number; by: [number, number, number] } | null>(null);
  const invalidate = useThree((state) => state.invalidate);
  const geometries = useMemo(() => lines.map((entry) => segments(entry.rings)), [lines]);
  useEffect(() => {
    invalidate();
    return () => geometries.forEach((geometry) => geometry.dispose());
  }, [geometries, invalidate]);
  const open = useMemo(() => segments([drawn]), [drawn]);
  useEffect(() => {
    invalidate();
    return () => open.dispose();
  }, [open, invalidate]);
  useEffect(() => invalidate(), [picked, grips, invalidate]);
  return (
    <group>
      {geometries.map((geometry, n) => (
        <lineSegments
          key={n}
          geometry={geometry}
          renderOrder={6}
          position={moved?.n === n ? moved.by : [0, 0, 0]}
        >
          <lineBasicMaterial
            color={FJORD}
            transparent
            opacity={picked === null || picked === n ? 0.95 : 0.35}
            depthTest={false}
          />
        </lineSegments>
      ))}
      <lineSegments geometry={open} renderOrder={6}>
        <lineBasicMaterial color={FJORD} depthTest={false} />
      </lineSegments>
      {drawn.map((at, k) => (
        <mesh key={k} position={at} renderOrder={7}>
          <sphereGeometry args={[0.008 * size, 12, 8]} />
          <meshBasicMaterial color={FJORD} depthTest={false} />
        </mesh>
      ))}
      {grips.map((grip) => (
        <Handle
          key={grip.n}
          grip={grip}
          size={size}
          on={picked === grip.n}
          onPick={onPick}
          onMove={(by) => {
            setMoved({ n: grip.n, by });
            invalidate();
          }}
          onDrop={(by) => {
            if (by.some(Boolean)) onDrop(grip.n, by);
            setMoved(null);
          }}
        />
      ))}
    </group>
  );
}

function Handle({
  grip,
  size,
  on,
  onPick,
  onMove,
  onDrop,
}: {
  grip: Grip;
  size: number;
  on: boolean;
  onPick: (n: number) => void;
  onMove: (by: [number, number, number]) => void;
  onDrop: (by: [number, number, number]) => void;
}) {
  const [by, setBy] = useState<Way>([0, 0, 0]);
  const drag = useFreeDrag({
    onHold: () => onPick(grip.n),
    onMove: (way) => {
      setBy(way);
      onMove(way);
    },
    onDrop: (way) => {
      setBy([0, 0, 0]);
      onDrop(way);
    },
  });
  return (
    <mesh
      position={grip.at.map((v, k) => v + (by[k] ?? 0)) as [number, number, number]}
      renderOrder={8}
      {...drag}
      onPointerDown={(event) => drag.onPointerDown(event, new Vector3(...grip.at))}
      onClick={(event) => event.stopPropagation()}
    >
      <sphereGeometry args={[0.02 * size, 20, 14]} />
      <meshBasicMaterial
        color={on ? NORTH : FJORD}
        depthTest={false}
        transparent
        opacity={0.9}
      />
    </mesh>
  );
}

/** Rings as separate line pieces. */
function segments(rings: number[][][]): BufferGeometry {
  const pieces = rings.flatMap((ring) =>
    ring.slice(1).flatMap((to, k) => [...(ring[k] ?? to), ...to]),
  );
  return new BufferGeometry().setAttribute(
    "position",
    new BufferAttribute(new Float32Array(pieces), 3),
  );
}
