/** The part as it stands: its shape, its size, and the bed under it. */
import { useMemo } from "react";

import type { Plan } from "../../api/client";
import type { Region } from "../panels/places/places";
import type { BedShape } from "../stage/Bed";
import { type PartShape, useShape } from "../stage/useShape";
import { numberOr } from "./choice";
import type { Desk } from "./useDesk";

export interface Placed {
  bed: BedShape;
  /** Millimetres along each axis. */
  size: readonly number[];
  shape: PartShape | undefined;
}

const SOME_SIZE = [50, 50, 50];

export function usePlaced(plan: Plan, desk: Desk): Placed {
  const {
    bed: form,
    size_x,
    size_y,
    size_z,
    origin_x,
    origin_y,
  } = desk.now.spec.machine ?? {};
  const bed = useMemo<BedShape>(() => {
    const round = form === "round";
    const [x, y] = [numberOr(size_x, 220), numberOr(size_y, 220)];
    const z = numberOr(size_z, 250);
    const middle = round ? [0, 0] : [x / 2, y / 2];
    return {
      round,
      x,
      y,
      z,
      origin: [numberOr(origin_x, middle[0] ?? 0), numberOr(origin_y, middle[1] ?? 0)],
    };
  }, [form, size_x, size_y, size_z, origin_x, origin_y]);
  const size = plan.exact?.report?.part.size_mm ?? plan.part.facts?.size_mm ?? SOME_SIZE;
  // the server shows the part as the kept version stands, so its key is of that version
  const { place, surface, body } = plan.latest.spec;
  const key = JSON.stringify([
    place ?? {},
    surface?.marks ?? [],
    ((body?.regions ?? []) as Region[]).filter((region) => region.attention),
  ]);
  return { bed, size, shape: useShape(plan.id, key).data };
}
