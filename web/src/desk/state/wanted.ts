/**
 * What is asked of the layer heights: the maker's settings, and for what is left open the defaults
 * the core declares.
 */
import type { Setting } from "../../api/client";
import type { Measure } from "../panels/tradeoff/frontier";
import { type Choice, withValues } from "./choice";

export interface Wanted {
  kind: "even" | "adaptive" | "best-fit";
  /** What the target means; an adaptive stack keeps it everywhere. */
  measure: Measure;
  targetUm: number;
  capMin: number | null;
  worstUm: number | null;
  stepLimit: number;
  layerHeight: number;
  /** Share of more time (%) for heights that change less often. */
  calm: number;
  /** Which of the two questions a best fit answers. */
  ask: "target" | "cap";
}

export function wantedOf(choice: Choice, settings: Setting[]): Wanted {
  const own = choice.settings.surface ?? {};
  const value = (key: string) =>
    own[key] ?? settings.find((setting) => setting.name === `surface.${key}`)?.default ?? null;
  const kind = value("kind") as Wanted["kind"];
  const capMin = value("time_cap_min") as number | null;
  return {
    kind,
    capMin,
    measure: kind === "adaptive" ? "max" : (value("measure") as Measure),
    targetUm: value("target_um") as number,
    worstUm: value("worst_um") as number | null,
    stepLimit: value("step_limit") as number,
    layerHeight: value("layer_height") as number,
    calm: value("calm") as number,
    ask: kind === "best-fit" && capMin !== null ? "cap" : "target",
  };
}

/** A choice with other values of the surface group; `undefined` leaves a value to its default. */
export const withSurface = (choice: Choice, values: Record<string, unknown>): Choice => ({
  ...choice,
  settings: withValues(choice.settings, "surface", values),
});
