import { clsx } from "clsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Material, type Setting } from "../api/client";
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
  const [name, setName] = useState<string | null>(null);
  const make = useMutation({
    mutationFn: () =>
      data(api.POST("/api/materials", { body: { name: (name ?? "").trim() } })),
    onSuccess: async (made) => {
      setName(null);
      await client.invalidateQueries({ queryKey: ["materials"] });
      setChosen(made.id);
    },
  });
  const material = materials.find((entry) => entry.id === chosen) ?? materials[0];
  return (
    <div className="grid grid-cols-[200px_minmax(0,1fr)] items-start gap-4">
      <section aria-label="Materials" className="card flex flex-col p-2">
        <h2 className="mb-1 px-1 text-lg font-semibold">Materials</h2>
        {materials.map((entry) => (
          <button
            key={entry.id}
            aria-pressed={entry === material}
            className={clsx(
              "border-0 border-l-[3px] px-2 py-2 text-left",
              entry === material
                ? "border-north bg-paper font-semibold"
                : "border-transparent bg-transparent hover:bg-paper",
            )}
            onClick={() => setChosen(entry.id)}
          >
            {entry.name}
            <span className="narrow block text-[12px] font-normal text-ink-2">
              {entry.spools.length
                ? entry.spools.map((spool) => spool.label).join(", ")
                : "no spool"}
            </span>
          </button>
        ))}
        {name === null ? (
          <button className="quiet mt-2" onClick={() => setName("")}>
            + material
          </button>
        ) : (
          <form
            className="mt-2 flex flex-col gap-1"
            onSubmit={(event) => {
              event.preventDefault();
              if (name.trim()) make.mutate();
            }}
          >
            <input
              className="field"
              aria-label="Name of the material"
              autoFocus
              maxLength={80}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <span className="flex gap-1">
              <button className="quiet" disabled={!name.trim() || make.isPending}>
                Make it
              </button>
              <button type="button" className="quiet" onClick={() => setName(null)}>
                Not now
              </button>
            </span>
            {make.error && (
              <span role="alert" className="text-[13px] text-stop">
                {make.error.message}
              </span>
            )}
          </form>
        )}
      </section>
      {material ? (
        <MaterialPage key={material.id} material={material} settings={settings} />
      ) : (
        <p className="card p-5 text-ink-2">
          No material yet. Make one; its figures start from a plain PLA.
        </p>
      )}
    </div>
  );
}
