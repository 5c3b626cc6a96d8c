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

/** What several were not done to, and why. */
export function NotDone({ done, refused }: { done: string; refused: readonly string[] }) {
  if (refused.length === 0) return null;
  return (
    <div role="status" className="card mb-2 p-2 text-[13px]">
      <p>{done} Not so:</p>
      <ul className="list-disc pl-5 text-stop">
        {refused.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </div>
  );
}
