import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";

import { FJORD, SHEET, TONES } from "../../tokens";
import { discard, screenPoints, UNTOUCHED } from "./screenPoints";

/**
 * Places marked by hand: a disc where something is wanted, a ring with a bar where it is not.
 * Points are in the coordinates of the file.
 */
export function MarkDots({
  marks,
  affine,
}: {
  marks: readonly { x: number; y: number; z: number; want: boolean }[];
  affine: number[][];
}) {
  const invalidate = useThree((state) => state.invalidate);
  const object = useMemo(() => {
    const places = marks.flatMap((mark) =>
      affine.map(
        (row) =>
          (row[0] ?? 0) * mark.x +
          (row[1] ?? 0) * mark.y +
          (row[2] ?? 0) * mark.z +
          (row[3] ?? 0),
      ),
    );
    const out = screenPoints(
      places,
      marks.map((mark) => (mark.want ? 1 : 0)),
      16,
      [TONES.stop, FJORD],
      SHEET,
      `
      r = length(d);
      bool inside = k == 0 && r < 0.6 && abs(d.x + d.y) > 0.28;
      colour = r > 0.82 || inside ? halo : tones[k];`,
    );
    out.raycast = UNTOUCHED;
    return out;
  }, [marks, affine]);
  useEffect(() => invalidate(), [object, invalidate]);
  useEffect(() => () => discard(object), [object]);
  return <primitive object={object} />;
}
