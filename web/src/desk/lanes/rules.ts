/**
 * The rules that decide a layer's height: their words, their patterns, and what relaxing one would
 * mean.
 */
import type { Layers, Machine } from "../../api/client";
import { bandsOf } from "../panels/places/places";
import type { Choice } from "../state/choice";
import { type Wanted, withSurface } from "../state/wanted";
import { EDGE, FEATURES, FJORD, INK_2, INK_3, NORTH, TONES } from "../../tokens";

export type Rule = Layers["rule"][number];

interface Shown {
  word: string;
  colour: string;
  /** Strokes of an 8 by 8 tile. */
  tile: string;
}

export const RULES: Record<Rule, Shown> = {
  "first-layer": { word: "first layer", colour: FEATURES.footing.colour, tile: "M0 4H8" },
  even: { word: "one layer height", colour: EDGE, tile: "M4 0V8" },
  target: { word: "surface target", colour: FJORD, tile: "M1 2H2M5 6H6" },
  curvature: { word: "curvature", colour: FJORD, tile: "M0 6Q4 -1 8 6" },
  "step-limit": { word: "step limit", colour: FEATURES.bridge.colour, tile: "M0 8V5H4V2H8" },
  "machine-limit": { word: "tallest layer", colour: "#A08A4A", tile: "M0 8L8 0" },
  finest: { word: "finest layer", colour: TONES.stop, tile: "M0 0L8 8M0 8L8 0" },
  "plan-limit": { word: "this plan's limit", colour: "#A08A4A", tile: "M0 0L8 8" },
  pin: { word: "pin", colour: NORTH, tile: "M2 4H6M4 2V6" },
  band: { word: "band", colour: FJORD, tile: "M0 2H8M0 6H8" },
  flat: { word: "level face", colour: INK_2, tile: "M0 7H8" },
  overhang: { word: "overhang", colour: FEATURES.support.colour, tile: "M0 0L6 8" },
  time: { word: "time cap", colour: FEATURES["outer-wall"].colour, tile: "M4 1V4H7" },
  top: { word: "end of the part", colour: INK_3, tile: "M0 1H8M4 1V4" },
  given: { word: "given one by one", colour: INK_3, tile: "M2 2H3M6 6H7" },
  "by-hand": { word: "a stroke by hand", colour: NORTH, tile: "M0 5Q2 1 4 5T8 5" },
};

export interface Span {
  from: number;
  to: number;
  rule: Rule;
}

/** Runs of layers with the same rule. */
export function spansOf(rules: Layers["rule"]): Span[] {
  const out: Span[] = [];
  rules.forEach((rule, k) => {
    const last = out.at(-1);
    if (last && last.rule === rule) last.to = k + 1;
    else out.push({ from: k, to: k + 1, rule });
  });
  return out;
}

/** Layers around one that share its height and rule. */
export function runAround(layers: Layers, k: number): [number, number] {
  const same = (n: number) =>
    layers.heights_mm[n] === layers.heights_mm[k] && layers.rule[n] === layers.rule[k];
  let from = k;
  let to = k + 1;
  while (from > 0 && same(from - 1)) from--;
  while (to < layers.count && same(to)) to++;
  return [from, to];
}

export interface Relaxed {
  label: string;
  choice: Choice;
}

/** What could be relaxed (or tightened) where a rule decides, as settings to try. */
export function relaxations(
  rule: Rule,
  choice: Choice,
  wanted: Wanted,
  stretch: [number, number],
  machine: Machine | undefined,
): Relaxed[] {
  const set = (label: string, values: Record<string, unknown>): Relaxed => ({
    label,
    choice: withSurface(choice, values),
  });
  const target = wanted.targetUm;
  const inside = (low: number, high: number) =>
    high > stretch[0] - 1e-6 && low < stretch[1] + 1e-6;
  switch (rule) {
    case "target":
    case "curvature":
    case "top":
      return [1.1, 1.25, 0.9].map((f) =>
        set(`target ${Math.round(target * f)} µm`, { target_um: Math.round(target * f) }),
      );
    case "time": {
      const cap = wanted.capMin ?? 0;
      return [1.1, 1.25, 0.9].map((f) =>
        set(`within ${Math.round(cap * f)} min`, { time_cap_min: Math.round(cap * f) }),
      );
    }
    case "step-limit":
      return [1.5, 2]
        .filter((ratio) => ratio > wanted.stepLimit)
        .map((ratio) => set(`step limit ${ratio} ×`, { step_limit: ratio }));
    case "machine-limit":
    case "finest":
      return (machine?.nozzles ?? [])
        .filter((nozzle) => nozzle.id !== choice.nozzle)
        .map((nozzle) => ({
          label: `the ${nozzle.bore} mm nozzle`,
          choice: { ...choice, nozzle: nozzle.id },
        }));
    case "plan-limit":
      return [
        set("no limits of this plan's own", {
          greatest_height: undefined,
          least_height: undefined,
        }),
      ];
    case "overhang":
      return [set("no lower layers where it leans out", { overhang_rule: undefined })];
    case "flat":
      return choice.settings.surface?.meet_flats
        ? [set("level faces need not be met exactly", { meet_flats: undefined })]
        : [];
    case "pin":
      return [
        set("without the pin", {
          pins: pinsOf(choice).filter((pin) => !inside(pin.z_mm, pin.z_mm)),
        }),
      ];
    case "band":
      return [
        set("without the band", {
          bands: bandsOf(choice).filter((band) => !inside(band.from_mm, band.to_mm)),
        }),
      ];
    case "by-hand":
      return [set("without strokes", { strokes: undefined })];
    case "even": {
      return [0.04, -0.04]
        .map((by) => Number((wanted.layerHeight + by).toFixed(2)))
        .map((h) => set(`even at ${h} mm`, { layer_height: h }));
    }
    default:
      return [];
  }
}

export interface Pin {
  z_mm: number;
  height_mm: number;
}
export const pinsOf = (choice: Choice): Pin[] =>
  (choice.settings.surface?.pins ?? []) as Pin[];
