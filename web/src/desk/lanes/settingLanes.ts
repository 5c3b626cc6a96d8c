/**
 * The lanes of settings along the height: what each shows, which setting a click in it edits, and
 * which are drawn.
 */
import { useKept } from "../../frame/useKept";

import type { Report } from "../../api/client";
import { FEATURES } from "../../tokens";

export type LaneName = "infill" | "walls" | "speed" | "flow" | "nozzle_temp" | "fan";

export interface SettingLane {
  name: LaneName;
  title: string;
  unit: string;
  /** The setting a click edits, and its words beside it. */
  setting: string;
  edits: string;
  colour: string;
  digits: number;
  /** Drawn from its least value instead of from nothing. */
  floating?: boolean;
}

export const SETTING_LANES: SettingLane[] = [
  {
    name: "infill",
    title: "Infill",
    unit: "%",
    setting: "body.infill_density",
    edits: "infill density",
    colour: FEATURES.infill.colour,
    digits: 0,
  },
  {
    name: "walls",
    title: "Walls",
    unit: "number",
    setting: "body.walls",
    edits: "walls",
    colour: FEATURES["inner-wall"].colour,
    digits: 0,
  },
  {
    name: "speed",
    title: "Speed",
    unit: "mean mm/s",
    setting: "pace.outer_wall_speed",
    edits: "outer wall speed",
    colour: FEATURES["outer-wall"].colour,
    digits: 0,
  },
  {
    name: "flow",
    title: "Flow",
    unit: "most mm³/s",
    setting: "material.flow",
    edits: "flow correction",
    colour: FEATURES.solid.colour,
    digits: 1,
  },
  {
    name: "nozzle_temp",
    title: "Nozzle",
    unit: "°C",
    setting: "air.nozzle_temp",
    edits: "nozzle temperature",
    colour: FEATURES.support.colour,
    digits: 0,
    floating: true,
  },
  {
    name: "fan",
    title: "Fan",
    unit: "%",
    setting: "air.fan",
    edits: "fan",
    colour: FEATURES.gap.colour,
    digits: 0,
  },
];

/**
 * What the maker asked to see or to fold; everything else is drawn where it changes above the first
 * layers.
 */
const KEPT = "lanes shown";
type Asked = Partial<Record<LaneName, boolean>>;
const NONE: Asked = {};
const isAsked = (value: unknown): value is Asked =>
  typeof value === "object" && value !== null && !Array.isArray(value);

export function useShownLanes(
  lanes: Report["lanes"] | null,
): [(name: LaneName) => boolean, (name: LaneName) => void] {
  const [asked, setAsked] = useKept(KEPT, NONE, isAsked);
  const shown = (name: LaneName) =>
    lanes !== null &&
    (asked[name] ?? (name !== "speed" && name !== "flow" && varies(lanes[name])));
  const toggle = (name: LaneName) => {
    setAsked({ ...asked, [name]: !shown(name) });
  };
  return [shown, toggle];
}

/** Whether a value changes above the first layers, which have their own. */
function varies(values: number[]): boolean {
  const rest = values.slice(3);
  return rest.some((value) => value !== rest[0]);
}

export const SETTING_LANE = 26;

/** Where the lanes of settings are drawn, below the others. */
export function settingRows(
  shown: SettingLane[],
  from: number,
): { lane: SettingLane; y: number }[] {
  return shown.map((lane, k) => ({ lane, y: from + k * (SETTING_LANE + 6) }));
}
