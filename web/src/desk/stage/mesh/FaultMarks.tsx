import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";

import { SHEET, TONES } from "../../../tokens";
import type { Fault } from "../../panels/mesh/useMesh";
import { discard, screenPoints, UNTOUCHED } from "../screenPoints";

/** The places of all faults, as diamonds. */
export function FaultMarks({ faults }: { faults: readonly Fault[] }) {
  const invalidate = useThree((state) => state.invalidate);
  const object = useMemo(() => {
    const places = faults.flatMap((fault) => fault.places.flat());
    const out = screenPoints(
      places,
      new Float32Array(places.length / 3),
      13,
      [TONES.look],
      SHEET,
      `
      r = abs(d.x) + abs(d.y);
      colour = r > 0.7 ? halo : tones[0];`,
    );
    out.raycast = UNTOUCHED;
    return out;
  }, [faults]);
  useEffect(() => invalidate(), [object, invalidate]);
  useEffect(() => () => discard(object), [object]);
  return <primitive object={object} />;
}
