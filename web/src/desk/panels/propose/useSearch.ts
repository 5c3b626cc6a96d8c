/** The newest search for changes of a plan: begun, watched, stopped. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, type Schemas } from "../../../api/client";

export type Search = Schemas["Search"];
export type Proposal = Schemas["Proposal"];
export type HeldAsk = Schemas["HeldAskRequest"];

const OPEN = ["queued", "searching"];

export function useSearch(plan: number) {
  const client = useQueryClient();
  const key = ["searches", plan];
  const path = { params: { path: { id: plan } } };
  const found = useQuery({
    queryKey: key,
    queryFn: () => data(api.GET("/api/plans/{id}/proposals", path)),
    refetchInterval: (query) =>
      OPEN.includes(query.state.data?.[0]?.state ?? "") ? 500 : false,
  });
  const again = { onSuccess: () => client.invalidateQueries({ queryKey: key }) };
  const begin = useMutation({
    mutationFn: (held: HeldAsk) =>
      data(api.POST("/api/plans/{id}/proposals", { ...path, body: held })),
    ...again,
  });
  const stop = useMutation({
    mutationFn: (id: number) =>
      data(api.DELETE("/api/searches/{id}", { params: { path: { id } } })),
    ...again,
  });
  const search = found.data?.[0] ?? null;
  return {
    search,
    running: !!search && OPEN.includes(search.state),
    begin,
    stop,
    error: found.error ?? begin.error ?? stop.error,
  };
}

/**
 * Arrows a search draws on the trade-off chart: from the plan it was made for to each of its best
 * single changes.
 */
export function arrowsOf(
  search: Search | null,
  current: number | null,
): { from: [number, number]; to: [number, number]; label: string }[] {
  const found = search?.result;
  if (!found || search.version !== current) return [];
  // one a family: its best
  const best = found.singles.filter(
    (one, k, all) => all.findIndex((other) => other.family === one.family) === k,
  );
  return best.slice(0, 4).map((one) => ({
    from: [found.before.time_s, found.before.p95_um],
    to: [one.after.time_s, one.after.p95_um],
    label: one.family,
  }));
}
