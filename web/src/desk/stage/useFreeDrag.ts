/** Dragging something on the stage: along the bed or, with Shift, up and down. */
import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useRef } from "react";
import { Plane, Vector3 } from "three";

export type Way = [number, number, number];
/** Millimetres below which a drag was a click. */
const LEAST = 0.05;

/**
 * Handlers of what is dragged. `onMove` hears the way from where it was held, `onDrop` the whole.
 */
export function useFreeDrag({
  onHold,
  onMove,
  onDrop,
}: {
  onHold?: () => void;
  onMove: (by: Way) => void;
  onDrop: (by: Way) => void;
}) {
  const { controls, camera } = useThree();
  const from = useRef<{ plane: Plane; start: Vector3; up: boolean; by: Way } | null>(null);
  const still = (held: boolean) => {
    if (controls && "enabled" in controls) (controls as { enabled: boolean }).enabled = !held;
  };
  return {
    onPointerDown: (event: ThreeEvent<PointerEvent>, at = event.point) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      (event.target as Element).setPointerCapture(event.pointerId);
      still(true);
      const side = camera.getWorldDirection(new Vector3()).setZ(0).normalize();
      const plane = new Plane().setFromNormalAndCoplanarPoint(
        event.shiftKey ? side : new Vector3(0, 0, 1),
        at,
      );
      from.current = {
        plane,
        start: event.ray.intersectPlane(plane, new Vector3()) ?? at.clone(),
        up: event.shiftKey,
        by: [0, 0, 0],
      };
      onHold?.();
    },
    onPointerMove: (event: ThreeEvent<PointerEvent>) => {
      const now = from.current;
      const hit = now && event.ray.intersectPlane(now.plane, new Vector3());
      if (!now || !hit) return;
      event.stopPropagation();
      hit.sub(now.start);
      now.by = now.up ? [0, 0, hit.z] : [hit.x, hit.y, 0];
      onMove(now.by);
    },
    onPointerUp: (event: ThreeEvent<PointerEvent>) => {
      const now = from.current;
      if (!now) return;
      event.stopPropagation();
      still(false);
      from.current = null;
      onDrop(Math.hypot(...now.by) > LEAST ? now.by : [0, 0, 0]);
    },
  };
}
