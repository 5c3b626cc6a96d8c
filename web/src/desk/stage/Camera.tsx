import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { MOUSE, PerspectiveCamera, Vector3 } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

/** A place the camera is brought to, and why. */
export interface Focus {
  at: [number, number, number];
  title: string;
  /** Code of the finding that the place belongs to, if it belongs to one. */
  code?: string;
}

/** Closest the camera goes to a place by itself, in mm. */
const NEAR = 55;

/**
 * Orbit with the left button, shift with the right; looks at the part whenever its size changes or
 * is asked to, and at a place when one is chosen.
 */
export function Camera({
  size,
  fit,
  focus,
}: {
  size: readonly number[];
  fit: number;
  focus: Focus | null;
}) {
  const { camera, gl, invalidate, set } = useThree();
  const controls = useMemo(() => new OrbitControls(camera, gl.domElement), [camera, gl]);
  const [x = 50, y = 50, z = 50] = size;
  // what is dragged on the stage holds the camera still meanwhile
  useEffect(() => set({ controls }), [set, controls]);
  useEffect(() => {
    controls.mouseButtons = { LEFT: MOUSE.ROTATE, MIDDLE: MOUSE.DOLLY, RIGHT: MOUSE.PAN };
    const draw = () => invalidate();
    controls.addEventListener("change", draw);
    return () => {
      controls.removeEventListener("change", draw);
      controls.dispose();
    };
  }, [controls, invalidate]);
  useEffect(() => {
    const radius = Math.hypot(x, y, z) / 2;
    const aspect = camera instanceof PerspectiveCamera ? Math.min(1, camera.aspect) : 1;
    const away = (radius * 4.1) / aspect;
    const target = new Vector3(0, 0, z * 0.45);
    camera.position.copy(
      new Vector3(0.55, -1, 0.72).normalize().multiplyScalar(away).add(target),
    );
    controls.target.copy(target);
    controls.update();
    invalidate();
  }, [camera, controls, x, y, z, fit, invalidate]);
  useEffect(() => {
    if (!focus) return;
    const target = new Vector3(...focus.at);
    const from = camera.position.clone().sub(controls.target);
    const away = Math.max(NEAR, Math.min(from.length(), 1.4 * Math.hypot(x, y, z)));
    // never from below the bed's plane: what is pointed at lies on top of the layer at the cursor
    from.z = Math.max(from.z, 0.45 * from.length());
    camera.position.copy(from.normalize().multiplyScalar(away).add(target));
    controls.target.copy(target);
    controls.update();
    invalidate();
    // a place is gone to once, when it is chosen
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  return null;
}
