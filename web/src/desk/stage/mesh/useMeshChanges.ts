/** The triangles of a file and of what mending made of it, where they stand. */
import { useQuery } from "@tanstack/react-query";
import { tableFromIPC } from "apache-arrow";
import { BufferAttribute, BufferGeometry } from "three";

import { binary, type Plan } from "../../../api/client";
import { meshKey } from "../../panels/mesh/useMesh";

/** What became of a triangle, by its number in the file. */
export const STATES = ["kept", "added", "dropped", "turned"] as const;
/** Whether the file is shown as it came or as it is taken. */
export type When = "before" | "after";
const SHOWN: Record<When, readonly number[]> = { before: [0, 2, 3], after: [0, 1, 3] };

/** One surface: the triangles that are there before or after mending. */
function surface(
  columns: readonly ArrayLike<number>[],
  state: ArrayLike<number>,
  when: When,
): BufferGeometry {
  const rows = [...Array(state.length).keys()].filter((k) =>
    SHOWN[when].includes(state[k] ?? 0),
  );
  const position = new Float32Array(3 * rows.length);
  const states = new Float32Array(rows.length);
  rows.forEach((row, k) => {
    columns.forEach((column, axis) => (position[3 * k + axis] = column[row] ?? 0));
    states[k] = state[row] ?? 0;
  });
  const geometry = new BufferGeometry()
    .setAttribute("position", new BufferAttribute(position, 3))
    .setAttribute("a_state", new BufferAttribute(states, 1));
  geometry.computeVertexNormals();
  geometry.computeBoundingSphere();
  return geometry;
}

export type MeshSurfaces = Record<When, BufferGeometry>;

function read(buffer: ArrayBuffer): MeshSurfaces {
  const table = tableFromIPC(new Uint8Array(buffer));
  const column = (name: string) =>
    (table.getChild(name)?.toArray() ?? new Float32Array()) as Float32Array;
  const columns = ["x", "y", "z"].map(column);
  const state = column("state");
  return {
    before: surface(columns, state, "before"),
    after: surface(columns, state, "after"),
  };
}

export function useMeshChanges(plan: Plan, wanted: boolean) {
  return useQuery({
    queryKey: ["mesh-changes", plan.id, meshKey(plan)],
    queryFn: async () => read(await binary(`/api/plans/${plan.id}/mesh/changes`)),
    enabled: wanted,
    staleTime: Infinity,
    gcTime: 30_000,
    placeholderData: (before) => before,
  });
}
