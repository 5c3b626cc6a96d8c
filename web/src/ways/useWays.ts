/** The ways a plan's part may stand: looked for, watched as they come in, one of them taken. */
import {
  keepPreviousData,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, data, type Plan, type Schemas } from "../api/client";
import { OPEN, useSettings } from "../api/hooks";
import { withChanges } from "../desk/state/changes";
import { choiceOf } from "../desk/state/choice";

export type Way = Schemas["WayDiffers"];
export interface Weights {
  time: number;
  scars: number;
  surface: number;
  strength: number;
  keep_seen: boolean;
}
export const PLAIN: Weights = { time: 1, scars: 1, surface: 1, strength: 1, keep_seen: false };

export function useWays(plan: Plan) {
  const client = useQueryClient();
  const settings = useSettings().data ?? [];
  const [weights, setWeights] = useState(PLAIN);
  const path = { id: plan.id };
  const found = useQuery({
    queryKey: ["ways", plan.id, weights],
    queryFn: () =>
      data(api.GET("/api/plans/{id}/ways", { params: { path, query: { ...weights } } })),
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      OPEN.includes(query.state.data?.[0]?.state ?? "") ? 350 : false,
  });
  const again = { onSuccess: () => client.invalidateQueries({ queryKey: ["ways", plan.id] }) };
  const begin = useMutation({
    mutationFn: (pull: number[] | null) =>
      data(api.POST("/api/plans/{id}/ways", { params: { path }, body: { pull } })),
    ...again,
  });
  const stop = useMutation({
    mutationFn: () => api.DELETE("/api/plans/{id}/ways", { params: { path } }),
    ...again,
  });
  const take = useMutation({
    mutationFn: (way: Way) =>
      data(
        api.PATCH("/api/plans/{id}", {
          params: { path },
          body: {
            settings: withChanges(choiceOf(plan), way.change, settings).settings,
            base: plan.latest.number,
          },
        }),
      ),
    onSuccess: (changed) => client.setQueryData(["plan", plan.id], changed),
  });
  // asked for by coming here; the same question has its answer already
  const asked = useRef(false);
  const { mutate } = begin;
  const search = found.data?.[0] ?? null;
  useEffect(() => {
    if (asked.current || !found.isSuccess) return;
    asked.current = true;
    if (!search || search.stale || search.state === "failed") mutate(null);
  }, [found.isSuccess, search, mutate]);
  return {
    search,
    weights,
    setWeights,
    running: begin.isPending || OPEN.includes(search?.state ?? ""),
    begin,
    stop,
    take,
    /** A way is told in settings: they have to be known to take one. */
    takes: settings.length > 0 && !take.isPending,
    error: begin.error ?? stop.error ?? take.error ?? found.error,
  };
}
