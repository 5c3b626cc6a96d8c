import type { Setting } from "../../api/client";
import { type Choice, withValue } from "./choice";

/**
 * A choice with changes by setting name, or of the nozzle; a value equal to its default is left
 * out.
 */
export function withChanges(
  choice: Choice,
  changes: Record<string, unknown>,
  settings: Setting[],
): Choice {
  const next = Object.entries(changes).reduce((now, [name, value]) => {
    const setting = settings.find((entry) => entry.name === name);
    return setting ? withValue(now, setting.group, setting.key, value, setting.default) : now;
  }, choice.settings);
  return {
    ...choice,
    settings: next,
    nozzle: typeof changes.nozzle === "number" ? changes.nozzle : choice.nozzle,
  };
}
