/** What a maker sets for this computer, kept by the browser: the same wherever it is asked for. */
import { useCallback, useSyncExternalStore } from "react";

const listeners = new Set<() => void>();
const known = new Map<string, unknown>();

function read<T>(key: string, otherwise: T, is: (value: unknown) => value is T): T {
  if (!known.has(key)) {
    try {
      known.set(key, JSON.parse(localStorage.getItem(key) ?? "null"));
    } catch {
      known.set(key, null); // somebody else's text
    }
  }
  const value = known.get(key);
  return is(value) ? value : otherwise;
}

/** Keep a value under a key; whoever shows it is told. */
export function keepHere(key: string, value: unknown): void {
  known.set(key, value);
  try {
    localStorage.setItem(key, JSON.stringify(value));
  } catch {
    // a browser that keeps nothing: it holds until the page is left
  }
  listeners.forEach((told) => {
    told();
  });
}

/** A kept value, checked by `is`, and how to keep another. `otherwise` must be a constant. */
export function useKept<T>(
  key: string,
  otherwise: T,
  is: (value: unknown) => value is T,
): [T, (value: T) => void] {
  const value = useSyncExternalStore(
    (told) => {
      listeners.add(told);
      return () => listeners.delete(told);
    },
    () => read(key, otherwise, is),
  );
  const keep = useCallback(
    (next: T) => {
      keepHere(key, next);
    },
    [key],
  );
  return [value, keep];
}

/** A kept value outside of a component. */
export const kept = read;
