/** What a maker can change on the desk, and how it is changed. */
import type { Plan } from "../../api/client";

export type Values = Record<string, Record<string, unknown>>;

/** What a maker can change: settings that differ from their defaults, and what makes the part. */
export interface Choice {
  settings: Values;
  nozzle: number;
  material: number;
  spool: number | null;
}

export const choiceOf = (plan: Plan): Choice => ({
  settings: plan.latest.settings,
  nozzle: plan.latest.nozzle,
  material: plan.latest.material,
  spool: plan.latest.spool ?? null,
});

/**
 * Settings with one value changed; a value equal to its default is left out, so that only
 * differences are kept.
 */
export function withValue(
  settings: Values,
  group: string,
  key: string,
  value: unknown,
  normal: unknown,
): Values {
  const others = Object.entries(settings[group] ?? {}).filter(([name]) => name !== key);
  const own = Object.fromEntries(value === normal ? others : [...others, [key, value]]);
  const next = { ...settings, [group]: own };
  return Object.fromEntries(
    Object.entries(next).filter(([, entries]) => Object.keys(entries).length > 0),
  );
}

/** The same for several values of one group; `undefined` leaves a value to its default. */
export function withValues(
  settings: Values,
  group: string,
  values: Record<string, unknown>,
): Values {
  return Object.entries(values).reduce(
    (now, [key, value]) => withValue(now, group, key, value, undefined),
    settings,
  );
}

/** A value of a spec as a number, or what stands in for it. */
export const numberOr = (value: unknown, normal: number): number =>
  typeof value === "number" ? value : normal;

/** The part stands on the face with this normal of the file; what was cut off goes with that. */
export function standingOn(choice: Choice, [x, y, z]: readonly number[]): Choice {
  const place = {
    ...(choice.settings.place ?? {}),
    ...{ down_x: x ?? 0, down_y: y ?? 0, down_z: z ?? -1 },
    ...{ turn_x: 0, turn_y: 0, sink: 0, trim_top: 0 },
  };
  return { ...choice, settings: { ...choice.settings, place } };
}
