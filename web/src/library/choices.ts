import type { Machine, Material } from "../api/client";

/** Every nozzle of the workshop, named with its machine. */
export const nozzlesOf = (machines: readonly Machine[]) =>
  machines.flatMap((machine) =>
    machine.nozzles.map(({ id, bore }) => ({ id, name: `${machine.name}, ${bore} mm` })),
  );

/** Every spool on the shelf, named with its material. */
export const spoolsOf = (materials: readonly Material[]) =>
  materials.flatMap((material) =>
    material.spools.map(({ id, label }) => ({
      id,
      material: material.id,
      name: `${label}, ${material.name}`,
    })),
  );
