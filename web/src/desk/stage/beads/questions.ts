/**
 * What a maker asks of the beads: each question gives every move a value and says what its colours
 * mean.
 */
import type { Report } from "../../../api/client";
import type { Toolpath } from "../../state/toolpath";
import { featureColours } from "./beadMaterial";

export type Question = "what" | "minutes" | "flow" | "cool" | "wide" | "tall" | "why";

export const QUESTIONS: Record<Question, string> = {
  what: "what it is",
  minutes: "where the minutes go",
  flow: "what nears the flow limit",
  cool: "where it is too quick to cool",
  wide: "how wide",
  tall: "how tall",
  why: "why it is solid",
};

/** Why a bead is solid, by the words of the report, and what is not solid. */
const REASONS: [string, string, string][] = [
  ["", "not solid", "#CFC9B8"],
  ["top", "a top above", "#8E3F4A"],
  ["bottom", "a bottom below", "#3F6E8C"],
  ["floor", "a solid floor", "#7B5EA7"],
  ["full", "no room for infill, or 100 %", "#587A4E"],
  ["narrow", "too narrow for infill", "#B0802F"],
];

export interface Answer {
  values: Float32Array;
  colours: string[];
  /** Labels of kinds by number; null: the colours are a scale over `range`. */
  kinds: string[] | null;
  range: [number, number];
  title: string;
  unit: string;
  format: (value: number) => string;
}

/**
 * Values and scale of a question. `safe` is the flow (mm³/s) that is not exceeded, `least` the
 * seconds a layer needs to set.
 */
export function answer(
  question: Question,
  path: Toolpath,
  report: Report | null,
  safe: number,
  least: number,
): Answer {
  const values = new Float32Array(path.count);
  const scale = (
    title: string,
    unit: string,
    range: [number, number],
    colours: string[],
    digits = 0,
  ): Answer => ({
    values,
    colours,
    kinds: null,
    range,
    title,
    unit,
    format: (value) => value.toFixed(digits),
  });
  const laid = (k: number) => (path.width[k] as number) > 0;
  if (question === "minutes") {
    let most = 0;
    for (let k = 1; k < path.count; k++) {
      values[k] = reached(path, k);
      if (laid(k)) most = Math.max(most, values[k] as number);
    }
    return scale(
      "speed reached",
      "mm/s",
      [0, tenAbove(most)],
      ["#5B1F2E", "#B5656B", "#E5D3B8", "#F2EDDF"],
    );
  }
  if (question === "flow") {
    for (let k = 0; k < path.count; k++)
      values[k] = safe > 0 ? (100 * (path.flow[k] as number)) / safe : 0;
    return scale(
      "of the safe flow",
      "%",
      [0, 100],
      ["#E9E4D4", "#D9B778", "#8A5A0C", "#5A1020"],
    );
  }
  if (question === "cool") {
    const seconds = report?.layers.seconds ?? [];
    for (let k = 0; k < path.count; k++) values[k] = seconds[path.layer[k] as number] ?? 0;
    return scale(
      "seconds a layer",
      "s",
      [0, Math.max(3 * least, 1)],
      ["#7A1420", "#C98F7C", "#E6E0D0", "#DDE4E4"],
    );
  }
  if (question === "wide" || question === "tall") {
    const source = question === "wide" ? path.width : path.height;
    let low = Infinity;
    let high = 0;
    for (let k = 0; k < path.count; k++) {
      values[k] = source[k] as number;
      if (!laid(k)) continue;
      low = Math.min(low, source[k] as number);
      high = Math.max(high, source[k] as number);
    }
    if (!(high > low + 1e-3))
      [low, high] = [Math.max(0, Math.min(low, high) - 0.05), high + 0.05];
    return question === "wide"
      ? scale("bead width", "mm", [low, high], ["#E6DDC6", "#8FA39B", "#1F4E57"], 2)
      : scale("bead height", "mm", [low, high], ["#3A1A48", "#A06A6E", "#E9DDBF"], 2);
  }
  if (question === "why") {
    const causes = report?.solid.causes ?? [];
    const solid = new Set(
      ["solid", "top", "bridge"].map((name) => path.features.indexOf(name as never)),
    );
    for (let k = 0; k < path.count; k++) {
      const cause = solid.has(path.feature[k] as number)
        ? causes[path.cause[k] as number]
        : undefined;
      values[k] = cause
        ? Math.max(
            0,
            REASONS.findIndex(([key]) => key === cause[1]),
          )
        : 0;
    }
    return {
      values,
      colours: REASONS.map(([, , colour]) => colour),
      kinds: REASONS.map(([, label]) => label),
      range: [0, 1],
      title: "solid because of",
      unit: "",
      format: String,
    };
  }
  for (let k = 0; k < path.count; k++) values[k] = path.feature[k] as number;
  return {
    values,
    colours: featureColours(path),
    kinds: [],
    range: [0, 1],
    title: "",
    unit: "",
    format: String,
  };
}

/** Mean speed of a move in mm/s, speeding up and braking included. */
export function reached(path: Toolpath, k: number): number {
  const seconds = (path.elapsed[k] as number) - (path.elapsed[k - 1] ?? 0);
  const far = Math.hypot(
    (path.x[k] as number) - (path.x[k - 1] as number),
    (path.y[k] as number) - (path.y[k - 1] as number),
    (path.z[k] as number) - (path.z[k - 1] as number),
  );
  return seconds > 1e-9 ? far / seconds : 0;
}

const tenAbove = (value: number) => Math.max(10, Math.ceil(value / 10) * 10);
