/** A library that is searched as one types, sorted and fetched page by page. */
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";

import { api, data, refusalOf } from "../api/client";
import { OPEN } from "../api/hooks";

/** Rows of one page. */
const PAGE = 50;

/** What is asked of a library; it stays while the page does. */
export interface Wish<S extends string> {
  search: string;
  sort: S;
  down: boolean;
  label: string;
}

export type PartSort = "created" | "name" | "size" | "plans";
export type PlanSort =
  | "created"
  | "part"
  | "plan"
  | "machine"
  | "material"
  | "time"
  | "mass"
  | "cost"
  | "error"
  | "findings";

/** What is asked, and a column pressed: it is sorted by, or the other way round. */
export function useWish<S extends string>(sort: S) {
  const [wish, setWish] = useState<Wish<S>>({ search: "", sort, down: true, label: "" });
  const by = (next: S, down: boolean) =>
    setWish({ ...wish, sort: next, down: wish.sort === next ? !wish.down : down });
  return { wish, setWish, by };
}

interface Page<T> {
  rows: T[];
  total: number;
}

/** Rows of all pages that were fetched, and how many there are in all. */
function rowsOf<T>(pages: Page<T>[] | undefined): Page<T> | undefined {
  return (
    pages && { rows: pages.flatMap((page) => page.rows), total: pages.at(-1)?.total ?? 0 }
  );
}

const following = <T>(last: Page<T>, all: Page<T>[]): number | null => {
  const shown = all.reduce((sum, page) => sum + page.rows.length, 0);
  return last.rows.length && shown < last.total ? shown : null;
};

async function page<T>(answer: {
  data?: T[];
  error?: unknown;
  response: Response;
}): Promise<Page<T>> {
  if (!answer.data) throw await refusalOf(answer.response);
  return { rows: answer.data, total: Number(answer.response.headers.get("X-Total")) };
}

export function usePartLibrary(wish: Wish<PartSort>) {
  const asked = useDeferredValue(wish);
  const found = useInfiniteQuery({
    queryKey: ["parts", "library", asked],
    queryFn: async ({ pageParam: offset }) =>
      page(
        await api.GET("/api/parts", { params: { query: { ...asked, offset, limit: PAGE } } }),
      ),
    initialPageParam: 0,
    getNextPageParam: following,
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      query.state.data?.pages.some((some) =>
        some.rows.some((part) => part.state === "reading"),
      )
        ? 500
        : false,
  });
  return { ...found, shown: rowsOf(found.data?.pages) };
}

export function usePlanLibrary(wish: Wish<PlanSort>) {
  const asked = useDeferredValue(wish);
  const found = useInfiniteQuery({
    queryKey: ["plans", "library", asked],
    queryFn: async ({ pageParam: offset }) =>
      page(
        await api.GET("/api/plans", { params: { query: { ...asked, offset, limit: PAGE } } }),
      ),
    initialPageParam: 0,
    getNextPageParam: following,
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      query.state.data?.pages.some((some) =>
        some.rows.some((plan) => OPEN.includes(plan.state)),
      )
        ? 700
        : false,
  });
  return { ...found, shown: rowsOf(found.data?.pages) };
}

export const labels = async (): Promise<string[]> =>
  (await data(api.GET("/api/parts/labels"))).labels;
