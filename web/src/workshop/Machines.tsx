import { clsx } from "clsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Machine, type Material, type Setting } from "../api/client";
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
  const [name, setName] = useState<string | null>(null);
  const make = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/machines", {
          body: { name: (name ?? "").trim(), bore: 0.4, flow: 20 },
        }),
      ),
    onSuccess: async (made) => {
      setName(null);
      await client.invalidateQueries({ queryKey: ["machines"] });
      setChosen(made.id);
    },
  });
  const machine = machines.find((entry) => entry.id === chosen) ?? machines[0];
  return (
    <div className="grid grid-cols-[200px_minmax(0,1fr)] items-start gap-4">
      <section aria-label="Machines" className="card flex flex-col p-2">
        <h2 className="mb-1 px-1 text-lg font-semibold">Machines</h2>
        {machines.map((entry) => (
          <button
            key={entry.id}
            aria-pressed={entry === machine}
            className={clsx(
              "border-0 border-l-[3px] px-2 py-2 text-left",
              entry === machine
                ? "border-north bg-paper font-semibold"
                : "border-transparent bg-transparent hover:bg-paper",
            )}
            onClick={() => setChosen(entry.id)}
          >
            {entry.name}
            <span className="narrow block text-[12px] font-normal text-ink-2">
              {sizeOf(entry)} · {entry.nozzles.map((nozzle) => nozzle.bore).join(", ")} mm
            </span>
          </button>
        ))}
        {name === null ? (
          <button className="quiet mt-2" onClick={() => setName("")}>
            + machine
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
              aria-label="Name of the machine"
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
    </div>
  );
}

function sizeOf(machine: Machine): string {
  const f = machine.figures as Record<string, number | string>;
  return f.bed === "round"
    ? `Ø ${f.size_x ?? 220}`
    : `${f.size_x ?? 220} × ${f.size_y ?? 220}`;
}
