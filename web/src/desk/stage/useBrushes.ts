/** Faces marked by a click: how much they are looked at, where supports or the seam may be. */
import { useState } from "react";

import { supportMarksOf, withSupportMarks } from "../panels/paths/Stands";
import { withValue } from "../state/choice";
import type { Room } from "../state/room";
import { type Mark, marksOf, withMarks } from "./Attention";
import { seamMarksOf, withSeamMarks } from "./SeamAreas";
import type { SupportBrush } from "./Supporting";
import { fileOf } from "./useShape";

/** Faces within so many degrees of the one pressed are marked with it. */
const SPREAD = 20;
/** Millimetres around a press in which the seam is wanted or not. */
const SEAM_RADIUS = 5;

export type Brushes = ReturnType<typeof useBrushes>;

export function useBrushes({ desk, placed, marks }: Room) {
  const [support, setSupport] = useState<SupportBrush>({
    want: true,
    radius: 0,
    spread: SPREAD,
  });
  const [seamWanted, setSeamWanted] = useState(true);
  const [attention, setAttention] = useState<Mark["attention"]>("seen");
  const affine = placed.shape?.affine;
  const press = (at: [number, number, number]) => {
    if (!affine) return;
    const [x, y, z] = fileOf(affine, at);
    if (marks.marking === "supports") {
      const spread = support.radius > 0 ? 180 : support.spread;
      const marked = withSupportMarks(desk, [
        ...supportMarksOf(desk),
        { x, y, z, ...support, spread },
      ]);
      const settings = withValue(marked.settings, "supports", "enabled", true, false);
      desk.change({ ...marked, settings });
    } else if (marks.marking === "seam") {
      const mark = { x, y, z, radius: SEAM_RADIUS, want: seamWanted };
      desk.change(withSeamMarks(desk, [...seamMarksOf(desk), mark]));
    } else {
      desk.change(withMarks(desk, [...marksOf(desk), { x, y, z, spread: SPREAD, attention }]));
    }
  };
  return {
    support,
    setSupport,
    seamWanted,
    setSeamWanted,
    attention,
    setAttention,
    press,
  };
}
