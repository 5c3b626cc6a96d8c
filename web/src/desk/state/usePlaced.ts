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
  const { bed: form, size_x, size_y, size_z } = desk.now.spec.machine ?? {};
  const [origin_x = 0, origin_y = 0] = desk.now.resolved.origin;
  const bed = useMemo<BedShape>(
    () => ({
      round: form === "round",
      x: numberOr(size_x, 220),
      y: numberOr(size_y, 220),
      z: numberOr(size_z, 250),
      origin: [origin_x, origin_y],
    }),
    [form, size_x, size_y, size_z, origin_x, origin_y],
  );
  const size = plan.exact?.report?.part.size_mm ?? plan.part.facts?.size_mm ?? SOME_SIZE;
  // the server shows the part as the kept version stands, so its key is of that version
  const { mesh, place, surface, body } = plan.latest.spec;
  const key = JSON.stringify([
    mesh ?? {},
    place ?? {},
    surface?.marks ?? [],
    ((body?.regions ?? []) as Region[]).filter((region) => region.attention),
  ]);
  return { bed, size, shape: useShape(plan.id, key).data };
}
