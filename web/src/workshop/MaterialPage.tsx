import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, type Material, type Setting } from "../api/client";
import { Figures } from "./Figures";
import { Spools } from "./Spools";
import { TextField } from "./TextField";

const GROUPS = [
  ["Temperatures", ["first_nozzle_temp", "nozzle_temp", "first_bed_temp", "bed_temp"]],
  ["Air and time", ["fan", "fan_stages", "least_layer_time", "floor_speed"]],
  ["Flow", ["max_flow", "flow_points", "flow"]],
  ["Ends of the dial", ["precise", "quick"]],
  ["Stuff and money", ["density", "price", "failed_share", "abrasive"]],
] as const;

/** One material: its figures, and its spools with what was taken off them. */
export function MaterialPage({
  material,
  settings,
}: {
  material: Material;
  settings: Setting[];
}) {
  const client = useQueryClient();
  const again = () => client.invalidateQueries({ queryKey: ["materials"] });
  const save = useMutation({
    mutationFn: (body: { name?: string; figures?: Record<string, unknown> }) =>
      data(api.PATCH("/api/materials/{id}", { params: { path: { id: material.id } }, body })),
    onSuccess: again,
    scope: { id: `material ${material.id}` },
  });
  const remove = useMutation({
    mutationFn: () =>
      api.DELETE("/api/materials/{id}", { params: { path: { id: material.id } } }),
    onSuccess: again,
  });
  const wrong = save.error ?? remove.error;
  return (
    <section aria-label={material.name} className="card flex flex-col gap-4 p-4">
      <header className="flex flex-wrap items-center gap-3">
        <TextField
          label="Name of the material"
          value={material.name}
          size="text-lg font-semibold"
          onValue={(name) => save.mutate({ name })}
        />
        <button
          className="quiet ml-auto"
          onClick={() => confirm(`Remove ${material.name} and its spools?`) && remove.mutate()}
        >
          Remove
        </button>
      </header>
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong.message}
        </p>
      )}
      <Spools material={material} />
      <Figures
        groups={GROUPS}
        settings={settings.filter((setting) => setting.group === "material")}
        figures={material.figures as Record<string, unknown>}
        onChange={(figures) => save.mutate({ figures })}
      />
    </section>
  );
}
