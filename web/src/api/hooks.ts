/** What the screens ask the service for. */
import {
  keepPreviousData,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";

import { api, csrf, data, refusalOf, type Part, type Plan } from "./client";

export const OPEN = ["queued", "computing"];

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: () => data(api.GET("/api/session")),
    staleTime: 60_000,
  });

/** The newest parts that hold some words: as many as one list has. */
export const useParts = (search = "") =>
  useQuery({
    queryKey: ["parts", "named", search],
    queryFn: () => data(api.GET("/api/parts", { params: { query: { search } } })),
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      query.state.data?.some((part) => part.state === "reading") ? 500 : false,
  });

/** The newest plans that hold some words, or those of one part: as many as one list has. */
export const usePlans = (asked: { search?: string; part?: number } = {}) =>
  useQuery({
    queryKey: ["plans", "named", asked],
    queryFn: () => data(api.GET("/api/plans", { params: { query: asked } })),
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      query.state.data?.some((plan) => OPEN.includes(plan.state)) ? 700 : false,
  });

/**
 * A plan; while its newest version is computed only state and progress are asked for, and the whole
 * once more when that has ended.
 */
export function usePlan(id: number) {
  const client = useQueryClient();
  const key = ["plan", id];
  const path = { params: { path: { id } } };
  const plan = useQuery({
    queryKey: key,
    queryFn: () => data(api.GET("/api/plans/{id}", path)),
  });
  const open = OPEN.includes(plan.data?.latest.state ?? "");
  useQuery({
    queryKey: ["progress", id],
    queryFn: async () => {
      const now = await data(api.GET("/api/plans/{id}/progress", path));
      const before = client.getQueryData<Plan>(key);
      if (before?.latest.id !== now.id || !OPEN.includes(now.state)) {
        await client.invalidateQueries({ queryKey: key });
      } else {
        client.setQueryData(key, { ...before, latest: { ...before.latest, ...now } });
      }
      return now;
    },
    enabled: open,
    refetchInterval: 200,
    gcTime: 0,
  });
  return plan;
}

export const useSettings = () =>
  useQuery({
    queryKey: ["settings"],
    queryFn: () => data(api.GET("/api/settings")),
    staleTime: Infinity,
  });

/**
 * Jobs change both without the screen's doing: asked for anew whenever a screen opens, and now and
 * then while it is.
 */
const LIVE = { refetchOnMount: "always", refetchInterval: 5000 } as const;
export const useMachines = () =>
  useQuery({ queryKey: ["machines"], queryFn: () => data(api.GET("/api/machines")), ...LIVE });
export const useMaterials = () =>
  useQuery({
    queryKey: ["materials"],
    queryFn: () => data(api.GET("/api/materials")),
    ...LIVE,
  });
export const useWorkshop = () =>
  useQuery({ queryKey: ["workshop"], queryFn: () => data(api.GET("/api/workshop")) });
/** What does not suit between a machine's nozzle and a material, before anything is planned. */
export const useFits = (nozzle: number | undefined, material: number | undefined) =>
  useQuery({
    queryKey: ["fits", nozzle, material],
    queryFn: () =>
      data(
        api.GET("/api/fits", {
          params: { query: { nozzle: nozzle ?? 0, material: material ?? 0 } },
        }),
      ),
    enabled: nozzle !== undefined && material !== undefined,
  });
export const useRecipes = () =>
  useQuery({ queryKey: ["recipes"], queryFn: () => data(api.GET("/api/recipes")) });
/** Those that can be used with a nozzle and a material. */
export const useSuitingRecipes = (nozzle: number | undefined, material: number | undefined) =>
  useQuery({
    queryKey: ["recipes", nozzle, material],
    queryFn: () => data(api.GET("/api/recipes", { params: { query: { nozzle, material } } })),
    enabled: nozzle !== undefined && material !== undefined,
  });

/** Read a part that was refused once more. */
export function useReadAgain() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: number) =>
      data(api.POST("/api/parts/{id}/again", { params: { path: { id } } })),
    onSettled: () => client.invalidateQueries({ queryKey: ["parts"] }),
  });
}

/** Take in a file; a form, because the file goes up as it is. */
export function useTakeIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (file: File): Promise<Part> => {
      const form = new FormData();
      form.append("file", file);
      const response = await fetch("/api/parts", {
        method: "POST",
        body: form,
        headers: { "X-CSRFToken": csrf() },
      });
      if (!response.ok) throw await refusalOf(response);
      return (await response.json()) as Part;
    },
    onSettled: () => client.invalidateQueries({ queryKey: ["parts"] }),
  });
}
