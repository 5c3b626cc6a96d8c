/** The colours that data is drawn with. Legend, label or pattern always goes with them. */
import { scaleLinear } from "d3-scale";

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
  "outer-wall": { label: "outer wall", colour: "#1D3354" },
  "inner-wall": { label: "inner wall", colour: "#6F8FB0" },
  solid: { label: "solid", colour: "#B5656B" },
  infill: { label: "infill", colour: "#587A4E" },
  gap: { label: "thin fill", colour: "#9C7A93" },
  top: { label: "top", colour: "#8E3F4A" },
  bridge: { label: "bridge", colour: "#7B5EA7" },
  support: { label: "support", colour: "#B0802F" },
  "support-roof": { label: "support roof", colour: "#7D5A1E" },
  footing: { label: "footing", colour: "#5E4B3A" },
  travel: { label: "travel", colour: "#9A9C9B" },
  retraction: { label: "retraction", colour: "#C9C4B4" },
  pause: { label: "pause", colour: "#B9A36B" },
  start: { label: "heating, homing", colour: "#D9D3C4" },
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

export const INK = "#1C2733";
export const INK_3 = "#626D79";
export const HAIRLINE = "#D9D3C4";
export const SHEET = "#FBFAF6";
export const NORTH = "#C2412D";
export const FJORD = "#1F6670";

export const PAPER = "#F5F2EA";
/** Pale sand (tall) to deep plum (fine). */
export const HEIGHT_RAMP = ["#E9DDBF", "#A06A6E", "#3A1A48"];

/** One ramp for layer heights; its ends are the machine's limits. */
export function heightColour(least: number, greatest: number): (height: number) => string {
  return scaleLinear<string>()
    .domain([greatest, (greatest + least) / 2, least])
    .range(HEIGHT_RAMP)
    .clamp(true);
}

/** Findings by severity. */
export const TONES = { stop: "#7A1420", look: "#8A5A0C", note: "#4A6FA5" } as const;
