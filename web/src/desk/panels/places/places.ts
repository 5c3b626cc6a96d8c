/** Bands and regions as the settings hold them, and what they change in words. */
import { api, data, type Schemas, type Setting } from "../../../api/client";
import { plain } from "../../../format";
import { inWords } from "../../state/recipes";
import { type Choice, withValue } from "../../state/choice";
import type { Desk } from "../../state/useDesk";

export type Changes = Record<string, unknown>;

/** A place of the core, some of which this page always says. */
type Said<Model, Key extends keyof Model> = Model & { [K in Key]-?: NonNullable<Model[K]> };
/** What an edge is tied to instead of a height. */
export type Edge = Schemas["Edge"];
export type Band = Said<Schemas["Band"], "name" | "from_mm" | "to_mm">;

export const SHAPES: Record<RegionShape, string> = {
  under: "under a face",
  over: "over a face",
  near: "near a face",
  outline: "in a drawn outline",
  box: "box",
  cylinder: "cylinder",
  ball: "ball",
  body: "a body of the file",
};
export type RegionShape = NonNullable<Schemas["Region"]["shape"]>;
/** Regions that hang on a face of the part; the others lie where they are put. */
export const ON_FACE: readonly RegionShape[] = ["under", "over", "near"];

export type Region = Said<Schemas["Region"], "name" | "shape" | "x" | "y" | "z">;

/** A band or a region that is looked at. */
export type Picked = { kind: "band" | "region"; n: number } | null;

export const bandsOf = (choice: Choice): Band[] =>
  (choice.settings.surface?.bands ?? []) as Band[];
export const regionsOf = (choice: Choice): Region[] =>
  (choice.settings.body?.regions ?? []) as Region[];
export const withBands = (choice: Choice, bands: Band[]): Choice => ({
  ...choice,
  settings: withValue(
    choice.settings,
    "surface",
    "bands",
    bands.length ? bands : undefined,
    undefined,
  ),
});
/** Bands of which none share a stretch: what several share has the changes of all of them. */
export const mergedBands = async (bands: Band[]): Promise<Band[]> =>
  (await data(api.POST("/api/bands/merge", { body: { bands } }))).bands as Band[];
export const withRegions = (choice: Choice, regions: Region[]): Choice => ({
  ...choice,
  settings: withValue(
    choice.settings,
    "body",
    "regions",
    regions.length ? regions : undefined,
    undefined,
  ),
});
export const replaced = <T>(list: T[], n: number, value: T): T[] =>
  list.map((old, k) => (k === n ? value : old));

/** Settings that can be changed in a band, or in a region too. */
export const localSettings = (settings: Setting[], within: "band" | "region"): Setting[] =>
  settings.filter(
    (setting) =>
      setting.within === "region" || (within === "band" && setting.within === "band"),
  );

export type LayerHeights = Partial<Pick<Band, "height_mm" | "least_mm" | "greatest_mm">>;

/** A band whose layers have other heights: one, a range, or as elsewhere. */
export const withHeights = (band: Band, next: LayerHeights): Band => ({
  ...band,
  height_mm: null,
  least_mm: null,
  greatest_mm: null,
  ...next,
});

/** What a field for a layer height is given: the heights a machine lays, in mm. */
export const heightField = (bounds: { least: number; greatest: number }) => ({
  min: bounds.least,
  max: bounds.greatest,
  step: 0.01,
  width: "w-14",
  unit: "mm",
});

/** A band with one setting changed; `undefined` takes the change back. */
export function withChange(band: Band, name: string, value: unknown): Band {
  const without = <T>(list: Record<string, T> = {}) =>
    Object.fromEntries(Object.entries(list).filter(([key]) => key !== name));
  const changes = without(band.changes);
  return value === undefined
    ? { ...band, changes, ramps: without(band.ramps) }
    : { ...band, changes: { ...changes, [name]: value } };
}

/**
 * What a band or region does, in words short enough for a title: "infill 10 → 60 %, nozzle 230 °C".
 */
export function changeWords(
  settings: Setting[],
  changes: Changes = {},
  ramps: Record<string, number> = {},
): string {
  return Object.entries(changes)
    .map(([name, value]) => {
      const setting = settings.find((entry) => entry.name === name);
      const unit = setting?.unit ?? "";
      const end = ramps[name];
      return (
        `${short(name, setting)} ` +
        (end === undefined
          ? inWords(value, unit)
          : `${inWords(value, "")} → ${inWords(end, unit)}`)
      );
    })
    .join(", ");
}

/** Labels are read beside their group's title; here they stand alone. */
const ALONE: Record<string, string> = {
  "air.nozzle_temp": "nozzle",
  "air.bed_temp": "bed",
  "body.infill_density": "infill",
  "body.build": "built as",
};
const short = (name: string, setting: Setting | undefined): string =>
  ALONE[name] ??
  (name.startsWith("pace.") && name.endsWith("_speed")
    ? `${(setting?.label ?? name).toLowerCase()} speed`
    : (setting?.label ?? name).toLowerCase());

export function bandWords(band: Band, settings: Setting[]): string {
  const heights = band.height_mm
    ? `layers of ${plain(band.height_mm)} mm`
    : band.least_mm || band.greatest_mm
      ? `layers ${band.least_mm ? plain(band.least_mm) : "…"} to ` +
        `${band.greatest_mm ? plain(band.greatest_mm) : "…"} mm`
      : "";
  return (
    [
      heights,
      band.worst_um ? `nothing above ${plain(band.worst_um)} µm` : "",
      changeWords(settings, band.changes, band.ramps),
    ]
      .filter(Boolean)
      .join(", ") || "changes nothing yet"
  );
}

export function regionWords(region: Region, settings: Setting[]): string {
  const says = [
    region.attention && `attention ${region.attention}`,
    region.seam && (region.seam === "attract" ? "seams here" : "no seams"),
    region.support && (region.support === "ask" ? "support" : "no support"),
  ];
  return (
    [changeWords(settings, region.changes), ...says].filter(Boolean).join(", ") ||
    "changes nothing yet"
  );
}

/** What an edge is tied to, in words. */
export function edgeWords(edge: Edge): string {
  const what =
    edge.at === "layer"
      ? `top of layer ${edge.layer}`
      : edge.at === "foot"
        ? "end of the solid foot"
        : edge.at === "top"
          ? "top of the part"
          : edge.label || "a point of the part";
  return edge.offset
    ? `${what} ${edge.offset > 0 ? "+" : "−"} ${plain(Math.abs(edge.offset))} mm`
    : what;
}

/** Bands that share a stretch of height, as a sentence; nothing where none do. */
export function overlap(bands: Band[]): string {
  const order = bands
    .filter((band) => !band.from_edge && !band.to_edge)
    .sort((a, b) => a.from_mm - b.from_mm);
  for (let k = 1; k < order.length; k++) {
    const [one, two] = [order[k - 1] as Band, order[k] as Band];
    if (two.from_mm < one.to_mm - 1e-9)
      return (
        `${one.name || "a band"} and ${two.name || "another"} share ` +
        `${two.from_mm.toFixed(2)} to ` +
        `${Math.min(one.to_mm, two.to_mm).toFixed(2)} mm`
      );
  }
  return "";
}

/** The band that holds at a height, by where the edges were last found. */
export const bandAt = (bands: Band[], z: number): number =>
  bands.findIndex((band) => z >= band.from_mm && z < band.to_mm);

/** Bands where their edges really are: those tied to something as the exact plan found them. */
export function placedBands(bands: Band[], desk: Desk): Band[] {
  const found = desk.report?.bands ?? [];
  return bands.map((band, n) => {
    const at = found[n];
    return (band.from_edge || band.to_edge) && at && desk.upToDate
      ? {
          ...band,
          from_mm: band.from_edge ? at.from_mm : band.from_mm,
          to_mm: band.to_edge ? at.to_mm : band.to_mm,
        }
      : band;
  });
}
