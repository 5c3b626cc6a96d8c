import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, type Machine, type Material, type Setting } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";
import { Connection } from "./Connection";
import { Figures } from "./Figures";
import { Learnt } from "./Learnt";
import { Nozzles } from "./Nozzles";
import { PlateMap } from "./PlateMap";
import { TextField } from "./TextField";

const GROUPS = [
  [
    "Bed and room",
    [
      "bed",
      "size_x",
      "size_y",
      "size_z",
      "bed_points",
      "origin_x",
      "origin_y",
      "keep_out",
      "park_x",
      "park_y",
    ],
  ],
  [
    "Head and gantry",
    [
      "head",
      "clear_left",
      "clear_right",
      "clear_front",
      "clear_back",
      "gantry",
      "gantry_height",
      "gantry_front",
      "gantry_back",
    ],
  ],
  [
    "Motion",
    [
      "axes",
      "max_speed_xy",
      "max_speed_z",
      "max_speed_e",
      "max_acceleration_xy",
      "max_acceleration_z",
      "max_acceleration_e",
      "junction_deviation",
      "calm_acceleration",
      "z_step",
    ],
  ],
  ["Motors and columns", ["motor_speed", "motor_acceleration", "column_radius", "arm_length"]],
  ["Heat", ["hottest_nozzle", "hottest_bed", "nozzle_heating", "bed_heating", "homing_time"]],
  ["Money", ["hourly_rate", "power", "tariff", "failed_share"]],
  [
    "File",
    [
      "name_limit",
      "extrusion",
      "acceleration_word",
      "fan_scale",
      "comments",
      "pause_word",
      "object_labels",
    ],
  ],
  ["Start and end", ["start_gcode", "end_gcode"]],
] as const;

type Values = Record<string, unknown>;

type Change = Partial<
  Pick<
    Machine,
    "name" | "bed_change_min" | "spool_change_min" | "clears_itself" | "held" | "connection"
  >
> & { figures?: Values };

/** How many minutes something takes a person at a machine. */
function Minutes({
  label,
  value,
  onValue,
}: {
  label: string;
  value: number | undefined;
  onValue: (minutes: number) => void;
}) {
  return (
    <span className="flex items-center gap-1">
      {label.toLowerCase()}{" "}
      <NumberField
        label={label}
        unit="min"
        value={value ?? 5}
        min={0}
        max={1440}
        step={1}
        width="w-14"
        onValue={(v) => v !== null && onValue(v)}
      />
    </span>
  );
}

/** One machine: how jobs get to it, its nozzles, and everything it states about itself. */
export function MachinePage({
  machine: kept,
  settings,
  materials,
}: {
  machine: Machine;
  settings: Setting[];
  materials: Material[];
}) {
  const client = useQueryClient();
  const again = () => client.invalidateQueries({ queryKey: ["machines"] });
  const save = useMutation({
    mutationFn: (body: Change) =>
      data(api.PATCH("/api/machines/{id}", { params: { path: { id: kept.id } }, body })),
    onSuccess: again,
    // one after the other, so that the last one typed is the one that stands
    scope: { id: `machine ${kept.id}` },
  });
  const hang = useMutation({
    mutationFn: (body: { spool?: number | null; nozzle?: number }) =>
      data(
        api.POST("/api/machines/{id}/hung-up", { params: { path: { id: kept.id } }, body }),
      ),
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: () => api.DELETE("/api/machines/{id}", { params: { path: { id: kept.id } } }),
    onSuccess: again,
  });
  const own = settings.filter((setting) => setting.group === "machine");
  const wrong = save.error ?? hang.error ?? remove.error;
  // what was just ticked or typed shows at once
  const machine: Machine = save.isPending
    ? {
        ...kept,
        ...save.variables,
        figures: { ...(kept.figures as Values), ...save.variables.figures },
      }
    : kept;
  const columns = (machine.figures as Values).axes;
  const groups = GROUPS.filter(
    ([title]) =>
      title !== "Motors and columns" || (columns !== undefined && columns !== "x-y-z"),
  );
  return (
    <section aria-label={machine.name} className="card flex flex-col gap-4 p-4">
      <header className="flex flex-wrap items-center gap-3">
        <TextField
          label="Name of the machine"
          value={machine.name}
          size="text-lg font-semibold"
          onValue={(name) => save.mutate({ name })}
        />
        <button
          className="quiet ml-auto"
          onClick={() => confirm(`Remove ${machine.name}?`) && remove.mutate()}
        >
          Remove
        </button>
      </header>
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong.message}
        </p>
      )}
      <Learnt machine={machine} />
      <Connection
        machine={machine}
        onConnection={(connection) => save.mutate({ connection })}
      />
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 text-[13px]">
        <Minutes
          label="Bed change"
          value={machine.bed_change_min}
          onValue={(v) => save.mutate({ bed_change_min: v })}
        />
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-ink"
            checked={machine.clears_itself ?? false}
            onChange={(event) => save.mutate({ clears_itself: event.target.checked })}
          />
          clears its bed by itself, the next job starts without a hand
        </label>
        <Minutes
          label="Spool change"
          value={machine.spool_change_min}
          onValue={(v) => save.mutate({ spool_change_min: v })}
        />
        {machine.nozzles.length > 1 && (
          <label className="flex items-center gap-1.5">
            fitted nozzle
            <select
              className="field"
              value={machine.fitted ?? ""}
              onChange={(event) =>
                event.target.value && hang.mutate({ nozzle: Number(event.target.value) })
              }
            >
              <option value="">not said</option>
              {machine.nozzles.map((nozzle) => (
                <option key={nozzle.id} value={nozzle.id}>
                  {nozzle.bore} mm
                </option>
              ))}
            </select>
          </label>
        )}
        <label className="flex items-center gap-1.5">
          hangs on it
          <select
            className="field"
            value={machine.loaded ?? ""}
            onChange={(event) =>
              hang.mutate({ spool: event.target.value ? Number(event.target.value) : null })
            }
          >
            <option value="">no spool</option>
            {materials.flatMap((material) =>
              material.spools.map((spool) => (
                <option key={spool.id} value={spool.id}>
                  {spool.label}, {material.name}
                </option>
              )),
            )}
          </select>
        </label>
      </div>
      <Nozzles machine={machine} />
      <PlateMap
        machine={machine}
        onPlaces={(places) => save.mutate({ figures: { keep_out: places } })}
      />
      <Figures
        groups={groups}
        settings={own}
        figures={machine.figures as Values}
        onChange={(figures) => save.mutate({ figures })}
      />
      <TemplateHelp />
    </section>
  );
}

/** What start and end may hold. */
function TemplateHelp() {
  return (
    <p className="text-[12px] text-ink-2">
      Start and end take fields such as <code>{"{bed_temp}"}</code>{" "}
      <code>{"{nozzle_temp}"}</code> <code>{"{later_bed_temp}"}</code>{" "}
      <code>{"{size_z}"}</code> <code>{"{top}"}</code> <code>{"{low_x}"}</code>{" "}
      <code>{"{material}"}</code>, sums such as <code>{"{min(top + 20, size_z)}"}</code>, and
      conditions:{" "}
      <code>
        {"{if nozzle > 0.5}"} … {"{else}"} … {"{end}"}
      </code>
      . They are checked when they are kept.
    </p>
  );
}
