import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";

export type OrderRow = Schemas["Order"];
export type OrderWish = Schemas["OrderAskRequest"];
export type Timetable = Schemas["Schedule"];
export type ScheduledBed = Schemas["ScheduledBed"];
export type Outlook = Schemas["OrderOutlook"];

/** Open orders, or those closed last; jobs change them without the screen's doing. */
export const useOrderBook = (closed = false) =>
  useQuery({
    queryKey: ["orders", closed],
    queryFn: () => data(api.GET("/api/orders", { params: { query: { closed } } })),
    refetchInterval: 5000,
  });

/** What is printed when and where; asked for more often while a better one is searched for. */
export const useTimetable = () =>
  useQuery({
    queryKey: ["schedule"],
    queryFn: () => data(api.GET("/api/schedule")),
    refetchInterval: (query) => (query.state.data?.searching ? 1500 : 5000),
  });

/** Everything that can be done to orders and the schedule; both are asked for anew after each. */
export function useOrderDesk() {
  const client = useQueryClient();
  const onSettled = () =>
    Promise.all(
      ["orders", "schedule", "beds"].map((key) =>
        client.invalidateQueries({ queryKey: [key] }),
      ),
    );
  const at = (id: number) => ({ params: { path: { id } } });
  return {
    take: useMutation({
      mutationFn: (body: OrderWish) => data(api.POST("/api/orders", { body })),
      onSettled,
    }),
    change: useMutation({
      mutationFn: ({ id, body }: { id: number; body: OrderWish }) =>
        data(api.PATCH("/api/orders/{id}", { ...at(id), body })),
      onSettled,
    }),
    close: useMutation({
      mutationFn: ({ id, how }: { id: number; how: Schemas["OrderCloseRequest"]["how"] }) =>
        data(api.POST("/api/orders/{id}/close", { ...at(id), body: { how } })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (id: number) => api.DELETE("/api/orders/{id}", at(id)),
      onSettled,
    }),
    promise: useMutation({
      mutationFn: ({ id, promised }: { id: number; promised: string | null }) =>
        data(api.POST("/api/orders/{id}/promise", { ...at(id), body: { promised } })),
      onSettled,
    }),
    readIn: useMutation({
      mutationFn: (table: string) => data(api.POST("/api/orders/import", { body: { table } })),
      onSettled,
    }),
    search: useMutation({
      mutationFn: () => data(api.POST("/api/schedule")),
      onSettled,
    }),
    stop: useMutation({
      mutationFn: () => data(api.DELETE("/api/schedule")),
      onSettled,
    }),
    release: useMutation({
      mutationFn: (body: Schemas["ReleaseRequest"]) =>
        data(api.POST("/api/schedule/release", { body })),
      onSettled,
    }),
    whatIf: useMutation({
      mutationFn: (body: Schemas["WhatIfRequest"]) =>
        data(api.POST("/api/schedule/what-if", { body })),
    }),
  };
}

export type OrderDesk = ReturnType<typeof useOrderDesk>;
