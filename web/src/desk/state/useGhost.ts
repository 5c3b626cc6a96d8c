/** The baseline: what figures are compared with, and its beads while it shows through. */
import { useState } from "react";

import type { Plan } from "../../api/client";
import { type Toolpath, useToolpath } from "./toolpath";
import { useHeldShortcut } from "../../frame/shortcuts";

export interface Ghost {
  /** The version compared with, if it is another than the newest. */
  base: Plan["baseline"];
  /** Whether it is to show through: its key is held, or it is pinned. */
  shown: boolean;
  onPinned: (pinned: boolean) => void;
  path: Toolpath | null;
}

export function useGhost(plan: Plan): Ghost {
  const [held, setHeld] = useState(false);
  const [pinned, onPinned] = useState(false);
  useHeldShortcut("ghost", setHeld);
  const base = plan.baseline && plan.baseline.id !== plan.latest.id ? plan.baseline : null;
  const shown = (held || pinned) && base !== null;
  const path = useToolpath(shown ? base.id : null).data ?? null;
  return { base, shown, onPinned, path };
}

/** What the baseline is called beside figures of this plan. */
export function baselineName(plan: Plan): string {
  const base = plan.baseline;
  if (!base) return "no baseline";
  return base.plan === plan.id ? `version ${base.number}` : `plan ${base.plan_number}`;
}
