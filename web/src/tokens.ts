/** The colours that data is drawn with. Legend, label or pattern always goes with them. */
import { scaleLinear } from "d3-scale";

import { DIM } from "./frame/theme";

/** A colour on paper, and the same for a dark room. */
const tone = (paper: string, dim: string) => (DIM ? dim : paper);

export type Feature =
  | "start"
  | "travel"
  | "retraction"
  | "footing"
  | "outer-wall"
  | "inner-wall"
  | "solid"
  | "infill"
  | "gap"
  | "top"
  | "bridge"
  | "support"
  | "support-roof"
  | "pause";

export const FEATURES: Record<Feature, { label: string; colour: string }> = {
  "outer-wall": { label: "outer wall", colour: tone("#1D3354", "#C3D5F0") },
  "inner-wall": { label: "inner wall", colour: tone("#6F8FB0", "#6F8FB0") },
  solid: { label: "solid", colour: tone("#B5656B", "#D58389") },
  infill: { label: "infill", colour: tone("#587A4E", "#8DB582") },
  gap: { label: "thin fill", colour: tone("#9C7A93", "#B797AE") },
  top: { label: "top", colour: tone("#8E3F4A", "#E59AA4") },
  bridge: { label: "bridge", colour: tone("#7B5EA7", "#AE94D6") },
  support: { label: "support", colour: tone("#B0802F", "#D3A04C") },
  "support-roof": { label: "support roof", colour: tone("#7D5A1E", "#E6C37E") },
  footing: { label: "footing", colour: tone("#5E4B3A", "#A8917B") },
  travel: { label: "travel", colour: tone("#9A9C9B", "#7C8186") },
  retraction: { label: "retraction", colour: tone("#C9C4B4", "#5F656B") },
  pause: { label: "pause", colour: tone("#B9A36B", "#CBB67E") },
  start: { label: "heating, homing", colour: tone("#D9D3C4", "#4A525A") },
};

/** What a feature of a report is called and drawn in; a newer core may know one this page lacks. */
export const featureOf = (name: string) =>
  (FEATURES as Partial<Record<string, (typeof FEATURES)[Feature]>>)[name];

export const LAID: Feature[] = [
  "outer-wall",
  "inner-wall",
  "solid",
  "top",
  "bridge",
  "infill",
  "gap",
  "support",
  "support-roof",
  "footing",
];

export const INK = tone("#1C2733", "#E9E4D6");
export const INK_3 = tone("#626D79", "#9DA6AD");
export const HAIRLINE = tone("#D9D3C4", "#3A434C");
export const SHEET = tone("#FBFAF6", "#262D34");
export const NORTH = tone("#C2412D", "#E8705A");
export const FJORD = tone("#1F6670", "#7FB0B3");

export const INK_2 = tone("#4A5766", "#BDC3C6");
export const EDGE = tone("#8E8777", "#7D8892");
export const LOOK = tone("#8A5A0C", "#D8A657");
/** A part's own surface where nothing is painted on it: pale in a dark room too. */
export const PAPER = "#F5F2EA";
/** A part's outline filled. */
export const BODY = tone("#EDE6D3", "#4B4638");
/** Pale sand (tall) to deep plum (fine). */
export const HEIGHT_RAMP = DIM
  ? ["#5A5242", "#A5748C", "#EBD3F2"]
  : ["#E9DDBF", "#A06A6E", "#3A1A48"];

/** One ramp for layer heights; its ends are the machine's limits. */
export function heightColour(least: number, greatest: number): (height: number) => string {
  return scaleLinear<string>()
    .domain([greatest, (greatest + least) / 2, least])
    .range(HEIGHT_RAMP)
    .clamp(true);
}

/** Findings by severity. */
export const TONES = {
  stop: tone("#7A1420", "#F0929B"),
  look: LOOK,
  note: tone("#4A6FA5", "#93B0DC"),
} as const;

/** Plans and kinds side by side; dash, pattern or label always goes with them. */
export const SEVERAL = [
  INK,
  FJORD,
  FEATURES.bridge.colour,
  LOOK,
  TONES.note,
  FEATURES.infill.colour,
  FEATURES.solid.colour,
  FEATURES.footing.colour,
] as const;
