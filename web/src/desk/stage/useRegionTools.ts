/** Regions placed on the part: by a click, as an outline of corners, and moved by their grips. */
import { useMemo, useState } from "react";

import {
  ON_FACE,
  type Region,
  regionsOf,
  type RegionShape,
  replaced,
  withRegions,
} from "../panels/places/places";
import type { Room } from "../state/room";
import type { Grip } from "./RegionMarks";
import { fileOf, toBed } from "./useShape";

type Point = [number, number, number];
/** A face this near to level (share of the normal that is upright) has no side to lie under. */
const UPRIGHT = 0.03;
/** Millimetres a region reaches from a face that is near it. */
const NEAR_REACH = 2;

export type RegionTools = ReturnType<typeof useRegionTools>;

export function useRegionTools({ desk, placed, marks }: Room) {
  const [kind, setKind] = useState<RegionShape>("under");
  const [upright, setUpright] = useState(false);
  const [corners, setCorners] = useState<Point[]>([]);
  const { shape, size } = placed;
  const regions = regionsOf(desk.choice);
  const affine = shape?.affine;
  const add = (region: Region) => {
    desk.change(withRegions(desk.choice, [...regions, region]));
    marks.pick({ kind: "region", n: regions.length });
    marks.onMarking(null);
  };
  /** A click on the part, with how upright the face there is (0: a wall). */
  const press = (at: Point, level: number) => {
    if (!affine) return;
    setUpright(false);
    const onFace = kind === "under" || kind === "over";
    if (onFace && level < UPRIGHT) {
      setUpright(true);
      return;
    }
    // the corners of an outline lie in one plane, that of the first
    if (kind === "outline") {
      setCorners([...corners, [at[0], at[1], corners[0]?.[2] ?? at[2]]]);
      return;
    }
    const [x, y, z] = fileOf(affine, at);
    const far = kind === "near" ? NEAR_REACH : Math.max(2, Math.round((size[0] ?? 50) / 8));
    add({
      name: "",
      shape: kind,
      x,
      y,
      z,
      reach: onFace ? 0 : far,
      ...quarterOf(size),
      changes: {},
    });
  };
  const close = () => {
    if (!affine) return;
    const points = corners.map((at) => fileOf(affine, at));
    const [x, y, z] = points[0] ?? [0, 0, 0];
    add({ name: "", shape: "outline", x, y, z, points, size_z: 10, changes: {} });
    setCorners([]);
  };
  const grips = useMemo<Grip[]>(() => {
    if (!affine) return [];
    return regions.flatMap((region, n) =>
      // what hangs on a face goes with it, and a body is moved where bodies are
      ON_FACE.includes(region.shape) || region.shape === "body"
        ? []
        : [{ n, at: toBed(affine, middleOf(region)) }],
    );
  }, [affine, regions]);
  const drop = (n: number, by: Point) => {
    const region = regions[n];
    if (!affine || !region) return;
    const shifted = (at: readonly number[]) =>
      fileOf(affine, toBed(affine, at).map((v, k) => v + (by[k] ?? 0)) as Point);
    const [x, y, z] = shifted([region.x, region.y, region.z]);
    const points = region.points ? { points: region.points.map(shifted) } : {};
    desk.change(
      withRegions(desk.choice, replaced(regions, n, { ...region, x, y, z, ...points })),
    );
  };
  return {
    kind,
    setKind: (next: RegionShape) => {
      setKind(next);
      setCorners([]);
      setUpright(false);
    },
    upright,
    corners,
    undoCorner: () => setCorners(corners.slice(0, -1)),
    clear: () => setCorners([]),
    close,
    press,
    grips,
    drop,
  };
}

/** Where a region is held: its middle, or that of its corners. */
function middleOf({ points, x, y, z }: Region): number[] {
  if (!points?.length) return [x, y, z];
  return [0, 1, 2].map(
    (k) => points.reduce((sum, at) => sum + (at[k] ?? 0), 0) / points.length,
  );
}

/** A box or cylinder about a quarter of the part, to begin with. */
const quarterOf = (size: readonly number[]) => ({
  size_x: Math.max(2, Math.round((size[0] ?? 40) / 4)),
  size_y: Math.max(2, Math.round((size[1] ?? 40) / 4)),
  size_z: Math.max(2, Math.round((size[2] ?? 40) / 4)),
});
