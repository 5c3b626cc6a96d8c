/** Turning the part on the stage: what is being turned, and taking it. */
import { useState } from "react";

import type { Room } from "../../state/room";
import type { Turning } from "./TurningShape";
import { type Axis, type Turns, withTurn } from "./turning";

export type TurnControl = ReturnType<typeof useTurn>;

export function useTurn({ desk, placed }: Room) {
  const [snap, setSnap] = useState<1 | 15>(15);
  const [turned, setTurned] = useState<{ turning: Turning; of: unknown } | null>(null);
  // what was turned is shown until the part stands so
  const turning = turned && turned.of === placed.shape ? turned.turning : null;
  const take = (axis: Axis, degrees: number) => {
    if (!degrees) return;
    const place = desk.choice.settings.place ?? {};
    const now = ["turn_x", "turn_y", "turn_z"].map((key) => Number(place[key] ?? 0));
    const [turn_x, turn_y, turn_z] = withTurn(now as unknown as Turns, axis, degrees);
    // what was cut off below and above goes with the way it was cut
    const cut = axis === "z" ? {} : { sink: 0, trim_top: 0 };
    const own = { ...place, turn_x, turn_y, turn_z, ...cut };
    desk.change({ ...desk.choice, settings: { ...desk.choice.settings, place: own } });
    setTurned({ turning: { axis, degrees }, of: placed.shape });
  };
  return {
    snap,
    setSnap,
    turning,
    onTurning: (next: Turning) => setTurned({ turning: next, of: placed.shape }),
    onTurned: () => turning && take(turning.axis, turning.degrees),
    take,
  };
}
