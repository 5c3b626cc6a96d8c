/**
 * Bands and pins changed by hand in the lanes: drawing, dragging edges and pins, snapping, and the
 * record for undo.
 */
import { type PointerEvent, useRef, useState } from "react";

import type { Choice } from "../state/choice";
import type { Desk } from "../state/useDesk";
import { withSurface } from "../state/wanted";
import { type Band, bandsOf } from "../panels/places/places";
import { type Pin, pinsOf } from "./rules";
import { FIRST_BRUSH, type HeightStroke, strokesOf, withStroke } from "./strokes";

/** Within so many pixels an edge snaps. */
const NEAR = 7;

export interface Lay {
  at: (z: number) => number;
  heightAt: (px: number) => number;
  down: (py: number) => number;
  tops: number[];
  flats: number[];
  zStep: number;
  least: number;
  greatest: number;
}

type Held =
  | { kind: "edge"; n: number; edge: "from_mm" | "to_mm" }
  | { kind: "pin"; n: number }
  | { kind: "draw"; from: number }
  | { kind: "stroke"; low: number; high: number; before: HeightStroke[] };

/** What the next press on the lanes draws. */
export type Armed = "band" | "pin" | "stroke" | null;
export type Chosen = { kind: "band" | "pin"; n: number } | null;

export function useHands(
  desk: Desk,
  lay: Lay,
  chosen: Chosen,
  choose: (chosen: Chosen) => void,
) {
  const [armed, arm] = useState<Armed>(null);
  const [brush, setBrush] = useState(FIRST_BRUSH);
  const [snapped, setSnapped] = useState("");
  const [drawn, setDrawn] = useState<[number, number] | null>(null);
  const held = useRef<Held | null>(null);
  const bands = bandsOf(desk.choice);
  const pins = pinsOf(desk.choice);
  const strokes = strokesOf(desk.choice);
  const top = lay.tops.at(-1) ?? 0;

  const set = (values: { bands?: Band[]; pins?: Pin[]; strokes?: HeightStroke[] }): Choice =>
    withSurface(
      desk.choice,
      Object.fromEntries(
        Object.entries(values).map(([key, list]) => [key, list.length ? list : undefined]),
      ),
    );
  const round = (v: number) => Number((Math.round(v / lay.zStep) * lay.zStep).toFixed(4));
  /** The nearest level face, else the nearest layer boundary, where one is near enough. */
  const snap = (px: number): number => {
    const z = lay.heightAt(px);
    const near = (list: number[]) =>
      list.reduce<number | null>(
        (best, v) =>
          Math.abs(lay.at(v) - px) < NEAR &&
          (best === null || Math.abs(v - z) < Math.abs(best - z))
            ? v
            : best,
        null,
      );
    const flat = near(lay.flats);
    const layer = flat === null ? near(lay.tops) : null;
    const to = round(Math.max(0, Math.min(flat ?? layer ?? z, lay.tops.at(-1) ?? z)));
    setSnapped(
      flat !== null
        ? `snapped to the level face at ${to.toFixed(2)} mm`
        : layer !== null
          ? `snapped to the layer at ${to.toFixed(2)} mm`
          : "",
    );
    return to;
  };
  const replace = <T>(list: T[], n: number, value: T) =>
    list.map((old, k) => (k === n ? value : old));
  const changeBand = (n: number, band: Band, keep = true) =>
    (keep ? desk.change : desk.slide)(set({ bands: replace(bands, n, band) }));
  const changePin = (n: number, pin: Pin, keep = true) =>
    (keep ? desk.change : desk.slide)(set({ pins: replace(pins, n, pin) }));
  const addBand = (from: number, to: number, changes: Record<string, unknown> = {}) => {
    const [low, high] = from < to ? [from, to] : [to, from];
    if (high - low < lay.least) return;
    desk.change(set({ bands: [...bands, { name: "", from_mm: low, to_mm: high, changes }] }));
    choose({ kind: "band", n: bands.length });
    arm(null);
  };
  const addPin = (z: number, height: number) => {
    desk.change(
      set({
        pins: [
          ...pins,
          {
            z_mm: round(z),
            height_mm: round(Math.max(lay.least, Math.min(lay.greatest, height))),
          },
        ],
      }),
    );
    choose({ kind: "pin", n: pins.length });
    arm(null);
  };
  const local = (event: PointerEvent<SVGElement>): [number, number] => {
    const bounds = (
      event.currentTarget.ownerSVGElement ?? event.currentTarget
    ).getBoundingClientRect();
    return [event.clientX - bounds.left, event.clientY - bounds.top];
  };
  const hold = (what: Held) => (event: PointerEvent<SVGElement>) => {
    event.stopPropagation();
    (event.currentTarget.ownerSVGElement ?? event.currentTarget).setPointerCapture(
      event.pointerId,
    );
    held.current = what;
  };
  const moved = (event: PointerEvent<SVGElement>, end: boolean): boolean => {
    const what = held.current;
    if (!what) return false;
    const [px, py] = local(event);
    if (end) held.current = null;
    if (what.kind === "draw") {
      const to = snap(px);
      setDrawn(end ? null : [what.from, to]);
      if (end) addBand(what.from, to);
      return true;
    }
    let next: Choice;
    if (what.kind === "stroke") {
      const z = lay.heightAt(px);
      what.low = Math.min(what.low, z);
      what.high = Math.max(what.high, z);
      next = set({ strokes: withStroke(what.before, brush, [what.low, what.high], top) });
    } else if (what.kind === "edge") {
      const band = bands[what.n];
      if (!band) return true;
      // an edge that is dragged is no longer tied to anything
      next = set({
        bands: replace(bands, what.n, {
          ...band,
          [what.edge]: snap(px),
          [what.edge === "from_mm" ? "from_edge" : "to_edge"]: null,
        }),
      });
    } else {
      const pin = pins[what.n];
      if (!pin) return true;
      next = set({
        pins: replace(pins, what.n, {
          ...pin,
          height_mm: round(Math.max(lay.least, Math.min(lay.greatest, lay.down(py)))),
        }),
      });
    }
    if (end) desk.settle(next);
    else desk.slide(next);
    return true;
  };
  /** A press on the lanes while something is armed; false: nothing is, the cursor takes it. */
  const pressed = (event: PointerEvent<SVGSVGElement>): boolean => {
    if (!armed) return false;
    const [px, py] = local(event);
    event.currentTarget.setPointerCapture(event.pointerId);
    const z = lay.heightAt(px);
    if (armed === "band") held.current = { kind: "draw", from: snap(px) };
    else if (armed === "stroke") {
      held.current = { kind: "stroke", low: z, high: z, before: strokes };
      desk.slide(set({ strokes: withStroke(strokes, brush, [z, z], top) }));
    } else addPin(lay.heightAt(px), lay.down(py));
    return true;
  };
  return {
    armed,
    arm,
    chosen,
    choose,
    snapped,
    drawn,
    bands,
    pins,
    strokes,
    brush,
    setBrush,
    /** A stroke from one height to another, for hands that type. */
    addStroke: (from: number, to: number) =>
      desk.change(set({ strokes: withStroke(strokes, brush, [from, to], top) })),
    setStrokes: (next: HeightStroke[]) => desk.change(set({ strokes: next })),
    addBand,
    addPin,
    changeBand,
    changePin,
    moved,
    pressed,
    holdEdge: (n: number, edge: "from_mm" | "to_mm", event: PointerEvent<SVGElement>) => {
      choose({ kind: "band", n });
      hold({ kind: "edge", n, edge })(event);
    },
    holdPin: (n: number, event: PointerEvent<SVGElement>) => {
      choose({ kind: "pin", n });
      hold({ kind: "pin", n })(event);
    },
    removeBand: (n: number) => {
      choose(null);
      desk.change(set({ bands: bands.filter((_, k) => k !== n) }));
    },
    removePin: (n: number) => {
      choose(null);
      desk.change(set({ pins: pins.filter((_, k) => k !== n) }));
    },
  };
}
