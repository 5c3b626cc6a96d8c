/**
 * The frontier of a plan: its ends first, then a few points, then in full; and what it says about
 * even stacks.
 */
import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data, type Frontier } from "../../../api/client";
import type { Choice } from "../../state/choice";

export type Measure = "mean" | "p95" | "max";
export const MEASURES: Record<
  Measure,
  { word: string; long: string; key: "mean_um" | "p95_um" | "max_um" }
> = {
  mean: { word: "mean", long: "step error, mean", key: "mean_um" },
  p95: { word: "P95", long: "step error, 95th percentile", key: "p95_um" },
  max: { word: "max", long: "step error, largest", key: "max_um" },
};
/** Points asked for: at once the even stacks and the two ends alone, then a few, then in full. */
export const ENDS = 0;
const ROUGH = 8;
const FULL = 28;
/**
 * What only says which of the possible stacks is wanted does not change the frontier (a test of the
 * core holds that): asked for again it would only be the same.
 */
const WANTED = [
  ...["measure", "target_um", "time_cap_min", "layer_height"],
  ...["strokes", "calm", "stack", "seam", "seam_bearing", "seam_marks"],
];

/** What is asked for the frontier of a plan, and where answers with so many points are kept. */
export function frontierOf(
  plan: number,
  exact: number | null,
  choice: Choice,
  measure: Measure,
) {
  const surface = Object.fromEntries(
    Object.entries(choice.settings.surface ?? {}).filter(
      // even layers and a best fit have the same one
      ([key, value]) => !WANTED.includes(key) && !(key === "kind" && value !== "adaptive"),
    ),
  );
  const body = {
    ...choice,
    settings: { ...choice.settings, surface } as Record<string, Record<string, unknown>>,
  };
  const whole = JSON.stringify([body, exact]);
  return { body, key: (points: number) => ["frontier", plan, measure, whole, points] };
}

export function useFrontier(
  plan: number,
  exact: number | null,
  choice: Choice,
  measure: Measure,
) {
  const { body, key } = frontierOf(plan, exact, choice, measure);
  const ask = (points: number) => () =>
    data(
      api.POST("/api/plans/{id}/frontier", {
        params: { path: { id: plan } },
        body: { ...body, measure, points },
      }),
    );
  const options = {
    staleTime: Infinity,
    gcTime: 120_000,
    retry: false,
    placeholderData: keepPreviousData,
  };
  const ends = useQuery({
    queryKey: key(ENDS),
    queryFn: ask(ENDS),
    ...options,
  });
  const rough = useQuery({
    queryKey: key(ROUGH),
    queryFn: ask(ROUGH),
    enabled: isOwn(ends),
    ...options,
  });
  const full = useQuery({
    queryKey: key(FULL),
    queryFn: ask(FULL),
    enabled: isOwn(rough),
    ...options,
  });
  // the best of these settings; until there is any, the full one of the settings before
  const own = [full, rough, ends].find(isOwn);
  return {
    frontier: own?.data ?? full.data ?? rough.data ?? ends.data,
    /** Whether it is solved along its length; else only some points of it are. */
    whole: own ? own === full : !!full.data,
    /** Whether it is of these settings, and not of those before. */
    ofNow: !!own,
    error: ends.error ?? rough.error ?? full.error,
  };
}

/** Whether a query has an answer, and to what is asked now. */
const isOwn = (query: { isSuccess: boolean; isPlaceholderData: boolean }) =>
  query.isSuccess && !query.isPlaceholderData;

/**
 * The lower hull of solved points by rising time: no stack is promised between them, but a mixture
 * of the two is.
 */
export function hullOf<P extends { time_s: number }>(
  points: readonly P[],
  error: (p: P) => number,
): P[] {
  const hull: P[] = [];
  const bends = (a: P, b: P, c: P) =>
    (b.time_s - a.time_s) * (error(c) - error(a)) -
    (error(b) - error(a)) * (c.time_s - a.time_s);
  for (const point of points) {
    let [a, b] = [hull.at(-2), hull.at(-1)];
    while (a && b && bends(a, b, point) <= 0) {
      hull.pop();
      [a, b] = [hull.at(-2), hull.at(-1)];
    }
    hull.push(point);
  }
  return hull;
}

type Even = Frontier["even"];

/**
 * Error (µm) of the even stack that takes a time (s), between the two nearest; null beyond them.
 */
export function evenAtTime(even: Even, seconds: number, measure: Measure): number | null {
  const sorted = [...even].sort((a, b) => a.time_s - b.time_s);
  return between(
    sorted.map((p) => [p.time_s, p[MEASURES[measure].key]]),
    seconds,
  );
}

/** Time (s) of the even stack with an error (µm); null where none is so fine or so coarse. */
export function evenAtError(even: Even, error: number, measure: Measure): number | null {
  const sorted = [...even].sort((a, b) => a[MEASURES[measure].key] - b[MEASURES[measure].key]);
  return between(
    sorted.map((p) => [p[MEASURES[measure].key], p.time_s]),
    error,
  );
}

function between(points: [number, number][], x: number): number | null {
  for (let k = 1; k < points.length; k++) {
    const [x0, y0] = points[k - 1] as [number, number];
    const [x1, y1] = points[k] as [number, number];
    if (x >= x0 - 1e-6 && x <= x1 + 1e-6)
      return x1 === x0 ? Math.min(y0, y1) : y0 + ((x - x0) / (x1 - x0)) * (y1 - y0);
  }
  return null;
}
