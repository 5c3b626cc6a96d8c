import { useQueries } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import type { Choice } from "./choice";

/**
 * The quick figures (≈) of a plan as it is, and of choices that would change it: only like is
 * compared with like.
 */
export function useQuick(plan: number, now: Choice, others: readonly Choice[]) {
  const [before, ...answers] = useQueries({
    queries: (others.length ? [now, ...others] : []).map((choice) => ({
      queryKey: ["quick of", plan, JSON.stringify(choice)],
      queryFn: () =>
        data(
          api.POST("/api/plans/{id}/quick", {
            params: { path: { id: plan } },
            body: { ...choice },
          }),
        ),
      retry: false,
      staleTime: 30_000,
    })),
  });
  return { before: before?.data, answers };
}
