/** Settings a maker keeps at hand, on this computer. */
import { useKept } from "../../frame/useKept";

const NONE: readonly string[] = [];
const isNames = (value: unknown): value is readonly string[] =>
  Array.isArray(value) && value.every((name) => typeof name === "string");

export function useShortList(): [readonly string[], (name: string) => void] {
  const [names, keep] = useKept("northpace.at-hand", NONE, isNames);
  const toggle = (name: string) => {
    keep(names.includes(name) ? names.filter((other) => other !== name) : [...names, name]);
  };
  return [names, toggle];
}
