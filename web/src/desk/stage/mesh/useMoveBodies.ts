/** Bodies moved on the stage: what is being moved, and taking it. */
import { useState } from "react";

import { bodyChanges, useBodyChange } from "../../panels/mesh/useMesh";
import type { Room } from "../../state/room";
import type { Way } from "../useFreeDrag";
import { toFile } from "../useShape";
import type { BodyWay } from "./MovingBodies";

/** Places are kept to the hundredth of a millimetre. */
const kept = (value: number): number => Math.round(100 * value) / 100;

export function useMoveBodies(room: Room) {
  const { desk, placed } = room;
  const { shape } = placed;
  const change = useBodyChange(room);
  const [held, setHeld] = useState<{ way: BodyWay; of: unknown } | null>(null);
  // what was moved is shown until the part stands so
  const way = held && held.of === shape ? held.way : null;
  const drop = (name: string, by: Way) => {
    if (!shape) return;
    // a way has no place: only the turn and size of the part count
    const turned = shape.affine.map((row) => [...row.slice(0, 3), 0]);
    const [x, y, z] = toFile(turned, by);
    const now = bodyChanges(desk.choice).find((one) => one.name === name) ?? { name };
    change({
      ...now,
      shift_x: kept((now.shift_x ?? 0) + x),
      shift_y: kept((now.shift_y ?? 0) + y),
      shift_z: kept((now.shift_z ?? 0) + z),
    });
  };
  return {
    way,
    onWay: (next: BodyWay | null) => setHeld(next && { way: next, of: shape }),
    drop,
  };
}
