/** Solid patches kept or dropped by hand. */
import type { Report } from "../../../api/client";
import { type Choice, withValue } from "../../state/choice";
import type { Desk } from "../../state/useDesk";

export interface Patch {
  x: number;
  y: number;
  z: number;
  keep: boolean;
}

export type SolidPatch = Report["solid"]["patches"][number];

export const patchesOf = (desk: Desk): Patch[] =>
  (desk.choice.settings.body?.patches ?? []) as Patch[];

export function withPatches(desk: Desk, patches: Patch[]): Choice {
  return {
    ...desk.choice,
    settings: withValue(
      desk.choice.settings,
      "body",
      "patches",
      patches.length ? patches : undefined,
      undefined,
    ),
  };
}

/** One patch kept solid or dropped to infill; an older word about the same place gives way. */
export function withPatch(desk: Desk, patch: SolidPatch, keep: boolean): Choice {
  const [x = 0, y = 0, z = 0] = patch.at_mm;
  const others = patchesOf(desk).filter(
    (other) => Math.hypot(other.x - x, other.y - y) > 0.5 || Math.abs(other.z - z) > 0.01,
  );
  return withPatches(desk, [...others, { x, y, z, keep }]);
}
