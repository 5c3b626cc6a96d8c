import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";

import { count } from "../format";
import { labels, type Wish } from "./useLibrary";

/** Search as one types, one label, and how many there are. */
export function LibraryBar<S extends string>({
  wish,
  onWish,
  total,
  what,
  children,
}: {
  wish: Wish<S>;
  onWish: (wish: Wish<S>) => void;
  total: number;
  /** One, and several, of what is searched. */
  what: readonly [string, string];
  children?: ReactNode;
}) {
  const known = useQuery({ queryKey: ["parts", "labels"], queryFn: labels });
  return (
    <div role="search" className="mb-3 flex flex-wrap items-center gap-2 text-[13px]">
      <input
        type="search"
        className="field min-h-8 w-64 px-2"
        aria-label={`Search ${what[1]}`}
        placeholder={`search ${what[1]}`}
        value={wish.search}
        onChange={(event) => onWish({ ...wish, search: event.target.value })}
      />
      {(known.data?.length ?? 0) > 0 && (
        <label className="flex items-center gap-1">
          label
          <select
            className="field min-h-8"
            aria-label="Label"
            value={wish.label}
            onChange={(event) => onWish({ ...wish, label: event.target.value })}
          >
            <option value="">all</option>
            {known.data?.map((label) => (
              <option key={label}>{label}</option>
            ))}
          </select>
        </label>
      )}
      {children}
      <span role="status" className="ml-auto text-ink-2">
        {count(total)} {total === 1 ? what[0] : what[1]}
        {(wish.search || wish.label) && " found"}
      </span>
    </div>
  );
}

/** The next page, by a press. */
export function More({
  shown,
  total,
  busy,
  onMore,
}: {
  shown: number;
  total: number;
  busy: boolean;
  onMore: () => void;
}) {
  if (shown >= total) return null;
  return (
    <p className="my-3 text-center">
      <button className="quiet" disabled={busy} onClick={onMore}>
        {busy ? "fetching …" : `show more (${count(total - shown)} left)`}
      </button>
    </p>
  );
}
