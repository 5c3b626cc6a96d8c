import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";
import { TextField } from "./TextField";

type Workshop = Schemas["Workshop"];
type House = Schemas["House"];
type Span = Schemas["HandHours"];

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** When somebody is there, and what work costs: what schedules and quotes are made with. */
export function Hours({ workshop }: { workshop: Workshop }) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (body: { house?: House; labour_rate?: number }) =>
      data(api.PATCH("/api/workshop", { body })),
    onSuccess: (saved) => {
      client.setQueryData(["workshop"], saved);
      return client.invalidateQueries({ queryKey: ["schedule"] });
    },
  });
  const house: House = workshop.house ?? {};
  // only what is changed is sent, so that two changes in quick succession do not undo each other
  const keep = (change: House) => save.mutate({ house: change });
  const rates = house.rates ?? {};
  const rate = (label: string, unit: string, key: keyof typeof rates, help: string) => (
    <p className="flex items-center gap-2">
      <span className="w-32">{label}</span>
      <NumberField
        label={label}
        unit={unit}
        value={rates[key] ?? 0}
        min={0}
        max={1000}
        step={1}
        width="w-16"
        onValue={(value) => value !== null && keep({ rates: { [key]: value } })}
      />
      <span className="text-[13px] text-ink-2">{help}</span>
    </p>
  );
  return (
    <>
      <HandHoursList
        hours={house.week?.hours ?? []}
        zone={house.week?.zone ?? "UTC"}
        onWeek={(week) => keep({ week })}
      />
      <section className="card flex flex-col gap-2 p-4">
        <h2 className="text-lg font-semibold">Rules of the house</h2>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={house.unattended ?? true}
            onChange={(event) => keep({ unattended: event.target.checked })}
          />
          Machines may print while nobody is there
        </label>
        <p className="flex items-center gap-2">
          No print takes longer than
          <NumberField
            label="Longest print"
            unit="h (empty: any length)"
            value={house.longest_h ?? null}
            min={0.1}
            max={1000}
            step={1}
            width="w-16"
            placeholder="any"
            onValue={(longest_h) => keep({ longest_h })}
          />
        </p>
        <p className="flex items-center gap-2">
          As long as results are few, count on
          <NumberField
            label="Failed pieces"
            unit="% of pieces that fail"
            value={house.fails ?? 3}
            min={0}
            max={90}
            step={1}
            width="w-16"
            onValue={(fails) => fails !== null && keep({ fails })}
          />
        </p>
      </section>
      <section className="card flex flex-col gap-2 p-4">
        <h2 className="text-lg font-semibold">What quotes are made of</h2>
        <p className="flex items-center gap-2">
          <span className="w-32">Hour of work</span>
          <NumberField
            label="Hour of work"
            unit="€/h"
            value={workshop.labour_rate ?? 0}
            min={0}
            max={1000}
            step={1}
            width="w-16"
            onValue={(value) => value !== null && save.mutate({ labour_rate: value })}
          />
          <span className="text-[13px] text-ink-2">
            work by hand: beds, spools, finishing, packing
          </span>
        </p>
        {rate(
          "Machine hour",
          "€/h",
          "machine_h",
          "of machines that state no cost of their own",
        )}
        {rate("Setting up", "min", "setup_min", "for each part of an order")}
        {rate("Finishing", "min", "finishing_min", "each piece, until results have shown it")}
        {rate("Packing", "min", "packing_min", "for each order")}
        {rate("Margin", "%", "margin", "added to what an order costs")}
        {rate("Rush", "%", "rush", "added for urgent orders")}
      </section>
      {save.error && (
        <p role="alert" className="text-stop">
          {save.error.message}
        </p>
      )}
    </>
  );
}

function HandHoursList({
  hours,
  zone,
  onWeek,
}: {
  hours: readonly Span[];
  zone: string;
  onWeek: (week: { hours?: Span[]; zone?: string }) => void;
}) {
  const set = (k: number, span: Partial<Span>) =>
    onWeek({ hours: hours.map((old, n) => (n === k ? { ...old, ...span } : old)) });
  return (
    <section className="card flex flex-col gap-2 p-4">
      <h2 className="text-lg font-semibold">When somebody is there</h2>
      <p className="text-[13px] text-ink-2">
        Beds are cleared and spools are changed in these hours only; queues and orders are
        scheduled by them.{" "}
        {hours.length === 0 && "Without any, somebody counts as there day and night."}
      </p>
      {hours.map((span, k) => (
        <p key={k} className="flex flex-wrap items-center gap-2">
          <span className="flex" role="group" aria-label={`Days of entry ${k + 1}`}>
            {DAYS.map((name, day) => {
              const on = (span.days ?? []).includes(day);
              return (
                <button
                  key={name}
                  className="quiet"
                  aria-pressed={on}
                  onClick={() => {
                    const days = on
                      ? (span.days ?? []).filter((one) => one !== day)
                      : [...(span.days ?? []), day];
                    set(k, { days });
                  }}
                >
                  {name}
                </button>
              );
            })}
          </span>
          from
          <TextField
            label={`From, entry ${k + 1}`}
            width="w-16"
            value={span.begin ?? ""}
            onValue={(begin) => set(k, { begin })}
          />
          until
          <TextField
            label={`Until, entry ${k + 1}`}
            width="w-16"
            value={span.end ?? ""}
            onValue={(end) => set(k, { end })}
          />
          <button
            className="quiet"
            aria-label={`Remove entry ${k + 1}`}
            onClick={() => onWeek({ hours: hours.filter((_, n) => n !== k) })}
          >
            remove
          </button>
        </p>
      ))}
      <p className="flex items-center gap-2">
        <button
          className="quiet"
          onClick={() =>
            onWeek({
              hours: [...hours, { days: [0, 1, 2, 3, 4], begin: "08:00", end: "18:00" }],
            })
          }
        >
          Add hours
        </button>
        <span className="ml-4">Time zone</span>
        <TextField
          label="Time zone"
          value={zone}
          placeholder="such as Europe/Oslo"
          onValue={(next) => onWeek({ zone: next })}
        />
      </p>
    </section>
  );
}
