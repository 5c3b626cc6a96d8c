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

export function useTicks<T extends { id: number }>(): Ticks<T> {
  const [all, setAll] = useState<readonly T[]>([]);
  const without = (rows: readonly T[]) =>
    all.filter((one) => !rows.some((row) => row.id === one.id));
  return {
    all,
    has: (row) => all.some((one) => one.id === row.id),
    set: (row, on) => setAll(on ? [...without([row]), row] : without([row])),
    setShown: (rows, on) => setAll(on ? [...without(rows), ...rows] : without(rows)),
    clear: () => setAll([]),
  };
}
