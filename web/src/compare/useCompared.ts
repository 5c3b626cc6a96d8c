import { useQuery } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";
import { SEVERAL } from "../tokens";

export type Compared = Schemas["Compared"];
export type ComparedPlan = Schemas["ComparedPlan"];

/** Plans side by side by their versions, the baseline first. */
export const useCompared = (versions: readonly number[]) =>
  useQuery({
    queryKey: ["compared", ...versions],
    queryFn: () =>
      data(api.GET("/api/compare", { params: { query: { versions: versions.join(",") } } })),
    enabled: versions.length > 0,
    placeholderData: (before) => before,
    retry: false,
  });

/** What a plan is called among others. */
export const titleOf = (plan: ComparedPlan): string =>
  plan.name || `plan ${plan.number}.${plan.version_number}`;

/**
 * Colours of plans beside the baseline, each with its own dash, so that none is told by colour
 * alone.
 */
export const MARKS = [
  { colour: SEVERAL[0], dash: "6 4" },
  { colour: SEVERAL[1], dash: "" },
  { colour: SEVERAL[2], dash: "2 2" },
  { colour: SEVERAL[3], dash: "8 2 2 2" },
  { colour: SEVERAL[4], dash: "1 3" },
  { colour: SEVERAL[5], dash: "10 3" },
  { colour: SEVERAL[6], dash: "4 2" },
  { colour: SEVERAL[7], dash: "3 5" },
] as const;
