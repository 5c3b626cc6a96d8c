import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  LineBasicMaterial,
  LineSegments,
  type Points,
} from "three";

import { FEATURES, INK, INK_3, SHEET } from "../../../tokens";
import type { Toolpath } from "../../state/toolpath";
import { screenPoints, UNTOUCHED } from "../screenPoints";

/**
 * Travel as thin lines, retractions as small squares, starts of outer walls as rings: of the layer
 * at the cursor.
 */
export function TravelMarks({
  path,
  layer,
  move,
  origin,
  travel,
  seams,
}: {
  path: Toolpath;
  layer: number;
  move: number | null;
  origin: [number, number];
  travel: boolean;
  seams: boolean;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const lines = useMemo(() => travelLines(path, origin), [path, origin]);
  const pulls = useMemo(
    () =>
      points(
        path,
        origin,
        (k, f) => f("retraction") && (path.speed[k] as number) > 0,
        INK_3,
        false,
      ),
    [path, origin],
  );
  const starts = useMemo(
    () =>
      points(
        path,
        origin,
        (k, f) => f("outer-wall") && path.feature[k - 1] !== path.feature[k],
        INK,
        true,
        -1,
      ),
    [path, origin],
  );
  useEffect(() => {
    const first = path.layerStart[layer] ?? 0;
    const last =
      move === null
        ? (path.layerStart[layer + 1] ?? path.count)
        : Math.min(move + 1, path.count);
    for (const { object, before, each } of [lines, pulls, starts])
      object.geometry.setDrawRange(
        each * (before[first] ?? 0),
        each * ((before[last] ?? 0) - (before[first] ?? 0)),
      );
    invalidate();
  }, [lines, pulls, starts, path, layer, move, travel, seams, invalidate]);
  useEffect(
    () => () => {
      for (const { object } of [lines, pulls, starts]) {
        object.geometry.dispose();
        (object.material as LineBasicMaterial).dispose();
      }
    },
    [lines, pulls, starts],
  );
  return (
    <>
      {travel && <primitive object={lines.object} />}
      {travel && <primitive object={pulls.object} />}
      {seams && <primitive object={starts.object} />}
    </>
  );
}

interface Ranged {
  object: LineSegments | Points;
  /** How many of them come before each move, and vertices of each. */
  before: Int32Array;
  each: number;
}

function travelLines(path: Toolpath, [dx, dy]: [number, number]): Ranged {
  const code = path.features.indexOf("travel");
  const before = new Int32Array(path.count + 1);
  for (let k = 0; k < path.count; k++)
    before[k + 1] = (before[k] as number) + (k > 0 && path.feature[k] === code ? 1 : 0);
  const at = new Float32Array(6 * (before[path.count] as number));
  let n = 0;
  for (let k = 1; k < path.count; k++) {
    if (path.feature[k] !== code) continue;
    at.set(
      [
        (path.x[k - 1] as number) - dx,
        (path.y[k - 1] as number) - dy,
        path.z[k - 1] as number,
        (path.x[k] as number) - dx,
        (path.y[k] as number) - dy,
        path.z[k] as number,
      ],
      n,
    );
    n += 6;
  }
  const object = new LineSegments(
    new BufferGeometry().setAttribute("position", new BufferAttribute(at, 3)),
    new LineBasicMaterial({ color: FEATURES.travel.colour, depthTest: false }),
  );
  return { object: dressed(object), before, each: 2 };
}

/** Marks where moves of some kind end, or begin (`from` −1); always the same size on the screen. */
function points(
  path: Toolpath,
  [dx, dy]: [number, number],
  wanted: (k: number, is: (name: "retraction" | "outer-wall") => boolean) => boolean,
  colour: string,
  ring: boolean,
  from = 0,
): Ranged {
  const before = new Int32Array(path.count + 1);
  const at: number[] = [];
  for (let k = 0; k < path.count; k++) {
    const mine = k > 0 && wanted(k, (name) => path.feature[k] === path.features.indexOf(name));
    if (mine)
      at.push(
        (path.x[k + from] as number) - dx,
        (path.y[k + from] as number) - dy,
        path.z[k] as number,
      );
    before[k + 1] = (before[k] as number) + (mine ? 1 : 0);
  }
  const shape = ring
    ? "r = length(d); colour = r < 0.6 ? halo : tones[k];"
    : "r = 0.0; colour = tones[k];";
  return {
    object: dressed(
      screenPoints(at, new Float32Array(at.length / 3), ring ? 11 : 6, [colour], SHEET, shape),
    ),
    before,
    each: 1,
  };
}

function dressed<T extends LineSegments | Points>(object: T): T {
  object.frustumCulled = false;
  object.renderOrder = 4;
  object.raycast = UNTOUCHED;
  return object;
}
