/** What is marked or picked on the part: what clicks mark, the open place, and its lines. */
import { useState } from "react";

import type { Finding } from "../../api/client";
import { type Picked, regionsOf, withRegions } from "../panels/places/places";
import { type RegionLines, useRegionLines } from "../panels/places/useRegionLines";
import { fileOf } from "../stage/useShape";
import type { Desk } from "./useDesk";
import type { Placed } from "./usePlaced";

/** What clicks on the part mark. */
export type Marking =
  "attention" | "supports" | "seam" | "regions" | "stand" | "turn" | "bodies" | null;

export interface Marks {
  marking: Marking;
  onMarking: (marking: Marking) => void;
  picked: Picked;
  /** Picks a band or region, and opens the instrument of places for a region or where asked. */
  pick: (picked: Picked, open?: boolean) => void;
  lines: RegionLines[];
  /** A region at a finding's place; null: the shape is not there yet. */
  regionAt: ((finding: Finding) => void) | null;
}

export function useMarking(
  plan: number,
  desk: Desk,
  { shape }: Placed,
  onPlaces: () => void,
): Marks {
  const [marking, onMarking] = useState<Marking>(null);
  const [picked, setPicked] = useState<Picked>(null);
  const lines = useRegionLines(plan, desk);
  const pick = (next: Picked, open = next?.kind === "region") => {
    setPicked(next);
    if (open) onPlaces();
  };
  /** A ball around the place, to be made another shape where that fits better. */
  const regionAt = (finding: Finding) => {
    if (!shape || !finding.at_mm) return;
    const [x, y, z] = fileOf(shape.affine, finding.at_mm as [number, number, number]);
    const regions = regionsOf(desk.choice);
    desk.change(
      withRegions(desk.choice, [
        ...regions,
        { name: finding.code, shape: "ball", x, y, z, reach: 5, changes: {} },
      ]),
    );
    pick({ kind: "region", n: regions.length });
  };
  return { marking, onMarking, picked, pick, lines, regionAt: shape ? regionAt : null };
}
