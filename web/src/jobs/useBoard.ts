import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";

export type Board = Schemas["Board"];
export type BoardMachine = Schemas["BoardMachine"];
export type Order = Schemas["InstructionRequest"];

/** Machines with what is on them; asked for often while something runs. */
export const useBoard = () =>
  useQuery({
    queryKey: ["board"],
    queryFn: () => data(api.GET("/api/board")),
    refetchInterval: (query) =>
      query.state.data?.machines.some(
        (machine) => machine.jobs.length > 0 && machine.kind !== "none",
      )
        ? 700
        : 4000,
  });

/**
 * Everything that can be done to a job or a machine from the board; the board is asked for anew
 * after each.
 */
export function useOrders() {
  const client = useQueryClient();
  const done = () =>
    Promise.all(
      ["board", "materials", "machines"].map((key) =>
        client.invalidateQueries({ queryKey: [key] }),
      ),
    );
  const at = (id: number) => ({ params: { path: { id } } });
  return {
    order: useMutation({
      mutationFn: ({ id, body }: { id: number; body: Partial<Order> & Pick<Order, "what"> }) =>
        data(
          api.POST("/api/jobs/{id}/order", {
            ...at(id),
            body: { reason: "", share: 0, ...body },
          }),
        ),
      onSettled: done,
    }),
    place: useMutation({
      mutationFn: ({ id, before }: { id: number; before: number | null }) =>
        data(api.POST("/api/jobs/{id}/place", { ...at(id), body: { before } })),
      onSettled: done,
    }),
    reprint: useMutation({
      mutationFn: (id: number) => data(api.POST("/api/jobs/{id}/reprint", at(id))),
      onSettled: done,
    }),
    spool: useMutation({
      mutationFn: ({ id, spool }: { id: number; spool: number }) =>
        data(api.POST("/api/jobs/{id}/spool", { ...at(id), body: { spool } })),
      onSettled: done,
    }),
    clear: useMutation({
      mutationFn: (id: number) => data(api.POST("/api/machines/{id}/clear", at(id))),
      onSettled: done,
    }),
    hungUp: useMutation({
      mutationFn: ({ id, body }: { id: number; body: { spool?: number; nozzle?: number } }) =>
        data(api.POST("/api/machines/{id}/hung-up", { ...at(id), body })),
      onSettled: done,
    }),
    regroup: useMutation({
      mutationFn: (id: number) => data(api.POST("/api/machines/{id}/regroup", at(id))),
      onSettled: done,
    }),
    hold: useMutation({
      mutationFn: ({ id, held }: { id: number; held: boolean }) =>
        data(api.PATCH("/api/machines/{id}", { ...at(id), body: { held } })),
      onSettled: done,
    }),
  };
}

export type Orders = ReturnType<typeof useOrders>;
