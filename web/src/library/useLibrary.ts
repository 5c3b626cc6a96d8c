/** A library that is searched as one types, sorted and fetched page by page. */
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useSearchParams } from "react-router";

import { api, data, refusalOf } from "../api/client";
import { OPEN } from "../api/hooks";

/** Rows of one page; milliseconds before what changes by itself is looked at again. */
const PAGE = 50;
const SOON = 600;

/** What is asked of a library; it stays while the page does. */
export interface Wish<S extends string> {
  search: string;
  sort: S;
  down: boolean;
  label: string;
}

export type PartSort = "created" | "name" | "size" | "plans" | "printed" | "success";
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
  | "findings"
  | "printed"
  | "success";

/** What is asked, and a column pressed: it is sorted by, or the other way round. */
export function useWish<S extends string>(sort: S) {
  // a link from elsewhere may search for something
  const linked = useSearchParams()[0].get("search") ?? "";
  const [known, setKnown] = useState(linked);
  const [wish, setWish] = useState<Wish<S>>({ search: linked, sort, down: true, label: "" });
  if (linked !== known) {
    setKnown(linked);
    setWish({ ...wish, search: linked, label: "" });
  }
  const by = (next: S, down: boolean) =>
    setWish({ ...wish, sort: next, down: wish.sort === next ? !wish.down : down });
  return { wish, setWish, by };
}

interface Page<T> {
  rows: T[];
  total: number;
}

type Answer<T> = Promise<{ data?: T[]; response: Response }>;

/** Rows of the pages that were fetched, and how many there are in all. */
function useLibrary<S extends string, T>(
  name: "parts" | "plans",
  wish: Wish<S>,
  fetched: (
    query: Wish<S> & { offset: number; limit: number },
    signal: AbortSignal,
  ) => Answer<T>,
  /** Whether a row changes by itself, so that it is looked at again. */
  changing: (row: T) => boolean,
) {
  const asked = useDeferredValue(wish);
  const found = useInfiniteQuery({
    queryKey: [name, "library", asked],
    queryFn: async ({ pageParam: offset, signal }): Promise<Page<T>> => {
      const { data: rows, response } = await fetched(
        { ...asked, offset, limit: PAGE },
        signal,
      );
      if (!rows) throw await refusalOf(response);
      return { rows, total: Number(response.headers.get("X-Total")) };
    },
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const shown = all.reduce((sum, page) => sum + page.rows.length, 0);
      return last.rows.length && shown < last.total ? shown : null;
    },
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      query.state.data?.pages.some((page) => page.rows.some(changing)) ? SOON : false,
  });
  const pages = found.data?.pages ?? [];
  return {
    ...found,
    rows: pages.flatMap((page) => page.rows),
    total: pages.at(-1)?.total ?? 0,
  };
}

export const usePartLibrary = (wish: Wish<PartSort>) =>
  useLibrary(
    "parts",
    wish,
    (query, signal) => api.GET("/api/parts", { params: { query }, signal }),
    (part) => part.state === "reading",
  );

export const usePlanLibrary = (wish: Wish<PlanSort>) =>
  useLibrary(
    "plans",
    wish,
    (query, signal) => api.GET("/api/plans", { params: { query }, signal }),
    (plan) => OPEN.includes(plan.state),
  );

export const labels = async (): Promise<string[]> =>
  (await data(api.GET("/api/parts/labels"))).labels;
