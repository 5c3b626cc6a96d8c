/** Rows of a library that are ticked: they stay so when something else is searched for. */
import { useState } from "react";

export interface Ticks<T> {
  all: readonly T[];
  has: (row: T) => boolean;
  set: (row: T, on: boolean) => void;
  /** All rows that are shown, or none of them. */
  setShown: (rows: readonly T[], on: boolean) => void;
  clear: () => void;
}

/** ``rows`` are those that are there now: what is ticked is as it is among them. */
export function useTicks<T extends { id: number }>(rows: readonly T[]): Ticks<T> {
  const [known, setKnown] = useState<readonly T[]>([]);
  const all = known.map((one) => rows.find((row) => row.id === one.id) ?? one);
  const without = (some: readonly T[]) =>
    all.filter((one) => !some.some((row) => row.id === one.id));
  return {
    all,
    has: (row) => all.some((one) => one.id === row.id),
    set: (row, on) => setKnown(on ? [...without([row]), row] : without([row])),
    setShown: (shown, on) => setKnown(on ? [...without(shown), ...shown] : without(shown)),
    clear: () => setKnown([]),
  };
}
