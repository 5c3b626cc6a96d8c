import { useQuery } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";

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
  { colour: "#1C2733", dash: "6 4" },
  { colour: "#1F6670", dash: "" },
  { colour: "#7B5EA7", dash: "2 2" },
  { colour: "#8A5A0C", dash: "8 2 2 2" },
  { colour: "#4A6FA5", dash: "1 3" },
  { colour: "#587A4E", dash: "10 3" },
  { colour: "#B5656B", dash: "4 2" },
  { colour: "#5E4B3A", dash: "3 5" },
] as const;
