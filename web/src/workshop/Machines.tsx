import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Machine, type Material, type Setting } from "../api/client";
import { Chooser } from "./Chooser";
import { MachinePage } from "./MachinePage";

/** The machines at the left, the chosen one beside them. */
export function Machines({
  machines,
  settings,
  materials,
}: {
  machines: Machine[];
  settings: Setting[];
  materials: Material[];
}) {
  const client = useQueryClient();
  const [chosen, setChosen] = useState<number | null>(null);
  const machine = machines.find((entry) => entry.id === chosen) ?? machines[0];
  const make = async (name: string) => {
    const made = await data(
      api.POST("/api/machines", { body: { name, bore: 0.4, flow: 20 } }),
    );
    await client.invalidateQueries({ queryKey: ["machines"] });
    return made.id;
  };
  return (
    <Chooser
      title="Machines"
      kind="machine"
      entries={machines.map((entry) => ({
        id: entry.id,
        name: entry.name,
        words: `${sizeOf(entry)} · ${entry.nozzles.map((nozzle) => nozzle.bore).join(", ")} mm`,
      }))}
      chosen={machine?.id}
      onChoose={setChosen}
      make={make}
    >
      {machine ? (
        <MachinePage
          key={machine.id}
          machine={machine}
          settings={settings}
          materials={materials}
        />
      ) : (
        <p className="card p-5 text-ink-2">
          No machine yet. Make one; its figures start from a plain machine with a 0.4 mm
          nozzle.
        </p>
      )}
    </Chooser>
  );
}

function sizeOf(machine: Machine): string {
  const f = machine.figures as Record<string, number | string>;
  return f.bed === "round"
    ? `Ø ${f.size_x ?? 220}`
    : `${f.size_x ?? 220} × ${f.size_y ?? 220}`;
}
