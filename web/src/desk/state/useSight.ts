/** Where the maker is sent: a height for the cursor, a place for the stage's camera. */
import { useCallback, useState } from "react";

import type { Finding } from "../../api/client";
import type { Focus } from "../stage/Camera";
import { type Cursor, layerAtHeight } from "./useCursor";
import type { Desk } from "./useDesk";

/** What the stage shows of the part. */
export const VIEWS = ["shape", "steps", "heights", "leans", "mesh", "beads"] as const;
export type View = (typeof VIEWS)[number];

export interface Sight {
  view: View;
  look: (view: View) => void;
  focus: Focus | null;
  leave: () => void;
  toHeight: (z: number) => void;
  toPlace: (at: [number, number, number], title: string) => void;
  /**
   * Code of the finding in the list that is under the mouse pointer or has the keyboard's focus;
   * null if there is none.
   */
  pointed: string | null;
  point: (code: string | null) => void;
  toFinding: (finding: Finding, at: readonly number[]) => void;
}

export function useSight(desk: Desk, cursor: Cursor): Sight {
  const [focus, setFocus] = useState<Focus | null>(null);
  const [pointed, point] = useState<string | null>(null);
  const [view, look] = useState<View>("beads");
  const leave = useCallback(() => setFocus(null), []);
  const toHeight = (z: number) => {
    if (desk.figures) cursor.go(layerAtHeight(desk.figures.layers.tops_mm, z));
  };
  const toPlace = (at: [number, number, number], title: string) => {
    toHeight(at[2]);
    setFocus({ at, title });
  };
  const toFinding = (finding: Finding, [x = 0, y = 0, z = 0]: readonly number[]) => {
    toHeight(z);
    setFocus({ at: [x, y, z], title: finding.message, code: finding.code });
  };
  return { view, look, focus, leave, toHeight, toPlace, pointed, point, toFinding };
}
