/** Settings a maker keeps at hand, on this computer. */
import { useState } from "react";

const KEY = "northpace.at-hand";

export function useShortList(): [readonly string[], (name: string) => void] {
  const [names, setNames] = useState<readonly string[]>(() => {
    try {
      const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
      return Array.isArray(kept)
        ? kept.filter((name): name is string => typeof name === "string")
        : [];
    } catch {
      return [];
    }
  });
  const toggle = (name: string) => {
    const next = names.includes(name)
      ? names.filter((other) => other !== name)
      : [...names, name];
    setNames(next);
    localStorage.setItem(KEY, JSON.stringify(next));
  };
  return [names, toggle];
}
