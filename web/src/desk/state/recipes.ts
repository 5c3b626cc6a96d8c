/** What differs between recipes. */
import type { Setting } from "../../api/client";
import { plain, textOf } from "../../format";
import type { Values } from "./choice";

/** Settings in which recipes differ from each other, with each one's value. */
export function differences(
  recipes: { settings: Values }[],
  settings: Setting[],
): { setting: Setting; values: unknown[] }[] {
  return settings
    .map((setting) => ({
      setting,
      values: recipes.map((recipe) => valueOf(recipe.settings, setting)),
    }))
    .filter(({ values }) =>
      values.some((value) => JSON.stringify(value) !== JSON.stringify(values[0])),
    );
}

export const valueOf = (own: Values, setting: Setting): unknown => {
  const value = own[setting.group]?.[setting.key];
  return value === undefined ? setting.default : value;
};

/** A value in words, with its unit. */
export function inWords(value: unknown, unit: string): string {
  if (value === null || value === undefined) return "as its source";
  if (typeof value === "boolean") return value ? "on" : "off";
  const text =
    typeof value === "number"
      ? plain(value)
      : Array.isArray(value)
        ? value.map((entry) => (typeof entry === "number" ? plain(entry) : "")).join(", ") ||
          `${value.length} marked`
        : textOf(value);
  return unit ? `${text} ${unit}` : text;
}

/**
 * What of a plan's settings belongs to its part and not to a recipe: how it stands, and its lists
 * of places.
 */
export function ofThePart(own: Values, settings: Setting[]): Values {
  const places = new Set(
    settings.filter((entry) => entry.type === "list").map((entry) => entry.name),
  );
  const kept = Object.entries(own).map(
    ([group, values]) =>
      [
        group,
        group === "place"
          ? values
          : Object.fromEntries(
              Object.entries(values).filter(([key]) => places.has(`${group}.${key}`)),
            ),
      ] as const,
  );
  return Object.fromEntries(kept.filter(([, values]) => Object.keys(values).length > 0));
}
