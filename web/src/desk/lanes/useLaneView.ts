/** The window of the lanes on the height: width, axis, zoom, and the wheel that moves them. */
import { type RefObject, useEffect, useMemo, useState } from "react";

import { useSize } from "../../frame/useSize";
import type { Cursor } from "../state/useCursor";
import { LEFT, MARGIN } from "./layout";
import { type Axis, laneScale, type View, WHOLE } from "./scale";

export type LaneView = ReturnType<typeof useLaneView>;

export function useLaneView(cursor: Cursor, tops: number[], seconds: number[]) {
  const [box, width] = useSize(900, 0);
  const [axis, setAxis] = useState<Axis>("height");
  const [view, setView] = useState<View>(WHOLE);
  const right = width - MARGIN;
  const scale = useMemo(
    () => laneScale(axis, tops, seconds, LEFT, right, view),
    [axis, tops, seconds, right, view],
  );
  useWheel(box, cursor, view, setView);
  return { box, width, right, axis, setAxis, view, setView, scale };
}

/**
 * The wheel moves the cursor, with Ctrl the zoom window; React's own wheel handler cannot keep the
 * page still.
 */
function useWheel(
  box: RefObject<HTMLDivElement | null>,
  cursor: Cursor,
  view: View,
  onView: (view: View) => void,
) {
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      // while something is brushed the wheel is the brush's
      if (element.dataset.brush !== undefined) return;
      if (!event.ctrlKey && !event.metaKey) {
        cursor.go(cursor.layer - Math.sign(event.deltaY) * (event.shiftKey ? 10 : 1));
        return;
      }
      const wide = element.clientWidth - LEFT - MARGIN;
      const at = event.clientX - element.getBoundingClientRect().left - LEFT;
      onView(zoomed(view, Math.min(1, Math.max(0, at / wide)), event.deltaY > 0));
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [box, cursor, view, onView]);
}

/** A window a quarter wider, or narrower to four fifths, around a share of it that stays. */
function zoomed([from, to]: View, here: number, out: boolean): View {
  const wide = Math.min(1, Math.max(0.01, (to - from) * (out ? 1.25 : 0.8)));
  const begin = Math.min(1 - wide, Math.max(0, from + here * (to - from - wide)));
  return [begin, begin + wide];
}
