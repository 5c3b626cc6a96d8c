/** What the lanes show and what of them is held, chosen or edited. */
import { useMemo, useState } from "react";

import { placedBands } from "../panels/places/places";
import type { Room } from "../state/room";
import { silhouette } from "../state/toolpath";
import type { Figures } from "../state/useDesk";
import { laneFacts } from "./facts";
import { heightScale } from "./HeightLane";
import { LEFT, ROWS, SETTINGS_FROM } from "./layout";
import { outlineOf } from "./outline";
import { type Span, spansOf } from "./rules";
import { heightAt, inView, layerAt, placeOf } from "./scale";
import {
  type LaneName,
  SETTING_LANE,
  SETTING_LANES,
  settingRows,
  useShownLanes,
} from "./settingLanes";
import { useHands } from "./useHands";
import { useLaneView } from "./useLaneView";

/** Under so many pixels a layer, one of them is shown through the lens. */
const CROWDED = 4;

export type LanesState = ReturnType<typeof useLanes>;

export function useLanes(
  { desk, path, cursor, marks, ghost, placed }: Room,
  figures: Figures,
) {
  const { tops_mm: tops, heights_mm: heights, seconds, rule } = figures.layers;
  const view = useLaneView(cursor, tops, seconds);
  const { scale, width, right } = view;
  const [hover, setHover] = useState<number | null>(null);
  const [span, setSpan] = useState<Span | null>(null);
  const [pinned, setPinned] = useState<number | null>(null);
  const [edited, setEdited] = useState<LaneName | null>(null);
  const facts = useMemo(() => laneFacts(desk.now), [desk.now]);
  const values = desk.report?.lanes ?? null;
  const [drawn, onDrawn] = useShownLanes(values);
  const rows = settingRows(
    SETTING_LANES.filter((lane) => drawn(lane.name)),
    SETTINGS_FROM,
  );
  const outline = useMemo(
    () =>
      path && path.layerStart.length - 1 === tops.length
        ? silhouette(path)
        : placed.shape
          ? outlineOf(placed.shape, tops)
          : null,
    [path, placed.shape, tops],
  );
  const spans = useMemo(() => spansOf(rule), [rule]);
  const { up, down } = heightScale(facts.greatest, ...ROWS.height);
  const { picked, pick } = marks;
  const hands = useHands(
    desk,
    {
      at: (z) => placeOf(scale, tops, z),
      heightAt: (px) => heightAt(scale, tops, px),
      down,
      tops,
      flats: figures.surface.flats_mm,
      ...facts,
    },
    picked?.kind === "band"
      ? { kind: "band", n: picked.n }
      : pinned !== null
        ? { kind: "pin", n: pinned }
        : null,
    (next) => {
      setEdited(null);
      setPinned(next?.kind === "pin" ? next.n : null);
      pick(next?.kind === "band" ? { kind: "band", n: next.n } : null);
    },
  );
  const layer = Math.min(cursor.layer, tops.length - 1);
  const [first, last] = inView(scale);
  return {
    ...view,
    figures,
    tops,
    heights,
    facts,
    values,
    drawn,
    onDrawn,
    rows,
    outline,
    spans,
    up,
    hands,
    bands: placedBands(hands.bands, desk),
    edited,
    setEdited,
    hover,
    setHover,
    /** The layer at the cursor, and the one that is spoken of: under the pointer, else that. */
    layer,
    shown: hover !== null && hover < tops.length ? hover : layer,
    /** Where the lanes end, in pixels. */
    bottom: SETTINGS_FROM - 5 + rows.length * (SETTING_LANE + 6),
    bounds: { top: tops.at(-1) ?? 0, least: facts.least, greatest: facts.greatest },
    place: { at: (z: number) => placeOf(scale, tops, z), left: LEFT, right },
    crowded: (width - LEFT) / Math.max(1, last - first) < CROWDED,
    /** The baseline's report, while it shows through. */
    compared: ghost.shown ? (ghost.base?.report ?? null) : null,
    /** The run of layers one rule decides that was chosen, as long as there is such a run. */
    span:
      span &&
      spans.find(
        (entry) => entry.rule === span.rule && entry.from < span.to && entry.to > span.from,
      ),
    setSpan,
    /** The middle of a layer in pixels, kept inside the lanes. */
    middle: (k: number) => {
      const edge = (n: number) => scale.x(scale.edges[n] ?? 0);
      return Math.max(LEFT, Math.min(right, (edge(k) + edge(k + 1)) / 2));
    },
    layerUnder: (clientX: number, element: Element) =>
      layerAt(scale, clientX - element.getBoundingClientRect().left),
  };
}
