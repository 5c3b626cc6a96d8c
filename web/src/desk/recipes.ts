/** Recipes: which suit, and what differs between them. */
import type { Machine, Recipe, Setting } from "../api/client";
import { plain } from "../format";
import type { Values } from "./useDesk";

/** Recipes that suit a nozzle and a material. */
export function suiting(recipes: Recipe[], machines: Machine[], nozzle: number, material: number): Recipe[] {
  const machine = machines.find((entry) => entry.nozzles.some((one) => one.id === nozzle));
  const bore = machine?.nozzles.find((one) => one.id === nozzle)?.bore;
  return recipes.filter((recipe) => recipe.bore === bore && (recipe.machine === null || recipe.machine === machine?.id) && (recipe.material === null || recipe.material === material));
}

/** Settings in which recipes differ from each other, with each one's value. */
export function differences(recipes: { settings: Values }[], settings: Setting[]): { setting: Setting; values: unknown[] }[] {
  return settings
    .map((setting) => ({ setting, values: recipes.map((recipe) => valueOf(recipe.settings, setting)) }))
    .filter(({ values }) => values.some((value) => JSON.stringify(value) !== JSON.stringify(values[0])));
}

export const valueOf = (own: Values, setting: Setting): unknown => {
  const value = own[setting.group]?.[setting.key];
  return value === undefined ? setting.default : value;
};

/** A value in words, with its unit. */
export function inWords(value: unknown, unit: string): string {
  if (value === null || value === undefined) return "as its source";
  if (typeof value === "boolean") return value ? "on" : "off";
  const text = typeof value === "number" ? plain(value) : Array.isArray(value) ? value.map((entry) => (typeof entry === "number" ? plain(entry) : "")).join(", ") || `${value.length} marked` : String(value);
  return unit ? `${text} ${unit}` : text;
}
