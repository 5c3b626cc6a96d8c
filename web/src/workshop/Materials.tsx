import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Material, type Setting } from "../api/client";
import { Chooser } from "./Chooser";
import { MaterialPage } from "./MaterialPage";

/** The materials at the left, the chosen one with its spools beside them. */
export function Materials({
  materials,
  settings,
}: {
  materials: Material[];
  settings: Setting[];
}) {
  const client = useQueryClient();
  const [chosen, setChosen] = useState<number | null>(null);
  const material = materials.find((entry) => entry.id === chosen) ?? materials[0];
  const make = async (name: string) => {
    const made = await data(api.POST("/api/materials", { body: { name } }));
    await client.invalidateQueries({ queryKey: ["materials"] });
    return made.id;
  };
  return (
    <Chooser
      title="Materials"
      kind="material"
      entries={materials.map((entry) => ({
        id: entry.id,
        name: entry.name,
        words: entry.spools.map((spool) => spool.label).join(", ") || "no spool",
      }))}
      chosen={material?.id}
      onChoose={setChosen}
      make={make}
    >
      {material ? (
        <MaterialPage key={material.id} material={material} settings={settings} />
      ) : (
        <p className="card p-5 text-ink-2">
          No material yet. Make one; its figures start from a plain PLA.
        </p>
      )}
    </Chooser>
  );
}
