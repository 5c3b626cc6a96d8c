import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import { Raycaster, Triangle, Vector3 } from "three";

import type { Layers } from "../../api/client";
import { layerAtHeight } from "../state/useCursor";
import {
  type Dab,
  dabTexture,
  layerTexture,
  type Paint,
  surfaceMaterial,
} from "./surfaceMaterial";
import type { PartShape } from "./useShape";
import { EDGE } from "../../tokens";

type Point = [number, number, number];

/** What the pointer is on. */
export interface Spot {
  point: [number, number, number];
  layer: number;
  height: number;
  errorUm: number;
  /** Degrees from level. */
  lean: number;
  /** Degrees by which it leans out from upright; below 0 it leans in. */
  out: number;
  attention: number;
}

/** The part as placed; painted by what its layers do to it, or a pale ghost behind its toolpath. */
export function Shape({
  shape,
  layers,
  paint,
  most,
  limits,
  ghost,
  cut,
  angle,
  dabs,
  onSpot,
  onPick,
  onStroke,
}: {
  shape: PartShape;
  layers: Layers | null;
  paint: Paint;
  most: number;
  limits: [number, number];
  ghost: boolean;
  cut: number | null;
  /** What leans out further than this (degrees) is painted, where leaning is. */
  angle: number;
  /** What was painted by hand. */
  dabs: readonly Dab[];
  onSpot: (spot: Spot | null) => void;
  onPick: ((point: [number, number, number], level: number, normal: Point) => void) | null;
  /** Where a brush is dragged, while it is; null where none is. */
  onStroke: ((point: [number, number, number] | null) => void) | null;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const controls = useThree((state) => state.controls);
  const stroking = useRef(false);
  const material = useMemo(surfaceMaterial, []);
  const texture = useMemo(
    () => (layers ? layerTexture(layers.tops_mm, layers.heights_mm) : null),
    [layers],
  );
  useEffect(() => () => texture?.dispose(), [texture]);
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => {
    const set = material.uniforms as Record<string, { value: unknown }>;
    const put = (name: string, value: unknown) => {
      (set[name] as { value: unknown }).value = value;
    };
    if (texture) put("u_layers", texture);
    put("u_top", layers?.tops_mm.at(-1) ?? 1);
    put("u_cut", cut ?? 1e9);
    put("u_paint", { shape: 0, steps: 1, heights: 2, leans: 3 }[paint]);
    put("u_angle", angle);
    put("u_most", most / 1000);
    put("u_limits", limits);
    if (!ghost) invalidate();
  }, [material, texture, layers, cut, paint, most, limits, angle, ghost, invalidate]);
  useEffect(() => {
    const texture = dabTexture(dabs);
    const set = material.uniforms as Record<string, { value: unknown }>;
    Object.assign(set.u_dabs ?? {}, { value: texture });
    Object.assign(set.u_dab_count ?? {}, { value: dabs.length ? texture.image.width : 0 });
    invalidate();
    return () => texture.dispose();
  }, [material, dabs, invalidate]);
  const still = (held: boolean) => {
    if (controls && "enabled" in controls) (controls as { enabled: boolean }).enabled = !held;
  };
  /** The place under the pointer that is not cut away. */
  const seen = (event: ThreeEvent<PointerEvent>): [number, number, number] | null => {
    const hits = new Raycaster(event.ray.origin, event.ray.direction).intersectObject(
      event.eventObject,
    );
    return hits.find((hit) => hit.point.z <= (cut ?? Infinity))?.point.toArray() ?? null;
  };
  const move = (event: ThreeEvent<PointerEvent>) => {
    if (stroking.current && onStroke) {
      const at = seen(event);
      if (at) onStroke(at);
      return;
    }
    if (!layers || event.buttons) return;
    onSpot(spotAt(event, shape, layers));
  };
  const down = (event: ThreeEvent<PointerEvent>) => {
    const at = onStroke && event.button === 0 ? seen(event) : null;
    if (!at || !onStroke) return;
    event.stopPropagation();
    (event.target as Element).setPointerCapture(event.pointerId);
    stroking.current = true;
    still(true);
    onStroke(at);
  };
  const up = () => {
    if (!stroking.current) return;
    stroking.current = false;
    still(false);
    onStroke?.(null);
  };
  if (ghost)
    return (
      <mesh key="ghost" geometry={shape.geometry} renderOrder={3}>
        <meshBasicMaterial color={EDGE} transparent opacity={0.12} depthWrite={false} />
      </mesh>
    );
  return (
    <mesh
      key="painted"
      geometry={shape.geometry}
      material={material}
      onPointerMove={move}
      onPointerDown={down}
      onPointerUp={up}
      onPointerCancel={up}
      onPointerOut={() => onSpot(null)}
      onClick={(event) => {
        if (!onPick || event.delta >= 4) return;
        // what is cut away is looked through
        const hit =
          cut === null
            ? event
            : new Raycaster(event.ray.origin, event.ray.direction)
                .intersectObject(event.object)
                .find((entry) => entry.point.z <= cut);
        const normal = hit?.face?.normal.toArray() ?? [0, 0, 0];
        if (hit) onPick(hit.point.toArray(), Math.abs(normal[2]), normal);
      }}
    />
  );
}

function spotAt(
  event: ThreeEvent<PointerEvent>,
  shape: PartShape,
  layers: Layers,
): Spot | null {
  const { point, face } = event;
  if (!face) return null;
  const attribute = (name: string) => shape.geometry.getAttribute(name);
  const at = (index: number) =>
    new Vector3().fromBufferAttribute(attribute("position"), index);
  const weights = new Triangle(at(face.a), at(face.b), at(face.c)).getBarycoord(
    point,
    new Vector3(),
  );
  if (!weights) return null;
  const slopes = attribute("a_slope");
  const slope =
    weights.x * slopes.getX(face.a) +
    weights.y * slopes.getX(face.b) +
    weights.z * slopes.getX(face.c);
  const layer = layerAtHeight(layers.tops_mm, point.z);
  const height = layers.heights_mm[layer] ?? 0;
  const bottom = (layers.tops_mm[layer] ?? 0) - height;
  const flat = attribute("a_flat").getX(face.a) > 0.5;
  const error = flat
    ? Math.min(Math.abs(point.z - bottom), Math.abs(bottom + height - point.z))
    : height * Math.abs(slope);
  return {
    point: point.toArray(),
    layer,
    height,
    errorUm: 1000 * error,
    out: (-Math.asin(Math.max(-1, Math.min(1, slope))) * 180) / Math.PI,
    lean: (Math.acos(Math.min(1, Math.abs(slope))) * 180) / Math.PI,
    attention: attribute("a_attention").getX(face.a),
  };
}
