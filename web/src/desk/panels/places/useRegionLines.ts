/** The regions of a plan as contour lines on the bed, for the stage and the list. */
import { useQuery } from "@tanstack/react-query";

import { api, data, type Schemas } from "../../../api/client";
import type { Desk } from "../../state/useDesk";
import { regionsOf } from "./places";

export type RegionLines = Schemas["RegionShape"];
/** What of a region says where it lies. */
const WHERE = [
  "shape",
  "x",
  "y",
  "z",
  "spread",
  "reach",
  "size_x",
  "size_y",
  "size_z",
  "points",
] as const;
const NONE: RegionLines[] = [];

export function useRegionLines(plan: number, desk: Desk): RegionLines[] {
  const { choice } = desk;
  const regions = regionsOf(choice);
  const found = useQuery({
    // what a region changes does not change where it lies
    queryKey: [
      "regions",
      plan,
      JSON.stringify([
        choice.settings.place ?? {},
        regions.map((region) => WHERE.map((key) => region[key])),
      ]),
    ],
    queryFn: () =>
      data(
        api.POST("/api/plans/{id}/regions", { params: { path: { id: plan } }, body: choice }),
      ),
    enabled: regions.length > 0,
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: (before) => before,
  });
  return regions.length ? (found.data ?? NONE) : NONE;
}
