import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferGeometry, Float32BufferAttribute, Line, LineBasicMaterial } from "three";

import { NORTH } from "../../tokens";

/**
 * A frame around the part at the cursor's height, with a post: the same red as the cursor in the
 * lanes.
 */
export function CursorFlag({ size, z }: { size: readonly number[]; z: number }) {
  const invalidate = useThree((state) => state.invalidate);
  const [x = 50, y = 50] = size;
  const flag = useMemo(() => {
    const [a, b] = [x / 2 + 4, y / 2 + 4];
    const points = [
      a,
      -b,
      0,
      a,
      b,
      0,
      -a,
      b,
      0,
      -a,
      -b,
      0,
      a,
      -b,
      0,
      a + 8,
      -b,
      0,
      a + 8,
      -b,
      4,
      a,
      -b,
      0,
    ];
    return new Line(
      new BufferGeometry().setAttribute("position", new Float32BufferAttribute(points, 3)),
      new LineBasicMaterial({ color: NORTH }),
    );
  }, [x, y]);
  useEffect(() => invalidate(), [z, flag, invalidate]);
  useEffect(
    () => () => {
      flag.geometry.dispose();
      flag.material.dispose();
    },
    [flag],
  );
  return <primitive object={flag} position={[0, 0, z]} />;
}
