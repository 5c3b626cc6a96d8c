import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";
import { TextField } from "./TextField";

type Workshop = Schemas["Workshop"];
type House = Schemas["House"];
type Span = Schemas["HandHours"];

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/**
 * The hours at which somebody is there, the rules of the house and the prices of work. Schedules
 * and quotes are computed from them.
 */
export function Hours({ workshop }: { workshop: Workshop }) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (body: { house?: House; labour_rate?: number }) =>
      data(api.PATCH("/api/workshop", { body })),
    // a second change of the hours is made to what the first one has changed
    onMutate: ({ house: change }) => {
      if (change?.week)
        client.setQueryData<Workshop>(["workshop"], (now) =>
          now
            ? { ...now, house: { ...now.house, week: { ...now.house?.week, ...change.week } } }
            : now,
        );
    },
    onSuccess: (saved) => {
      client.setQueryData(["workshop"], saved);
      return client.invalidateQueries({ queryKey: ["schedule"] });
    },
    onError: () => client.invalidateQueries({ queryKey: ["workshop"] }),
  });
  const house: House = workshop.house ?? {};
  // only what is changed is sent, so that two changes in quick succession do not undo each other
  const keep = (change: House) => save.mutate({ house: change });
  const rates = house.rates ?? {};
  const rate = (key: keyof typeof rates, label: string, unit: string, help: string) => (
    <Value
      label={label}
      unit={unit}
      value={rates[key] ?? 0}
      help={help}
      onValue={(value) => keep({ rates: { [key]: value ?? 0 } })}
    />
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
        <Value
          label="Longest print"
          unit="h"
          value={house.longest_h ?? null}
          placeholder="any"
          min={0.1}
          help="no print takes longer; empty for any length"
          onValue={(longest_h) => keep({ longest_h })}
        />
        <Value
          label="Failed pieces"
          unit="%"
          value={house.fails ?? 3}
          max={90}
          help="share that is assumed to fail while a plan has few results"
          onValue={(fails) => keep({ fails: fails ?? 0 })}
        />
      </section>
      <section className="card flex flex-col gap-2 p-4">
        <h2 className="text-lg font-semibold">What quotes are made of</h2>
        <Value
          label="Hour of work"
          unit="€/h"
          value={workshop.labour_rate ?? 0}
          help="work by hand: beds, spools, finishing, packing"
          onValue={(value) => save.mutate({ labour_rate: value ?? 0 })}
        />
        {rate("machine_h", "Machine hour", "€/h", "of machines without costs of their own")}
        {rate("setup_min", "Setting up", "min", "for each part of an order")}
        {rate("finishing_min", "Finishing", "min", "each piece, until results show how long")}
        {rate("packing_min", "Packing", "min", "for each order")}
        {rate("margin", "Margin", "%", "added to what an order costs")}
        {rate("rush", "Rush", "%", "added for urgent orders")}
      </section>
      {save.error && (
        <p role="alert" className="text-stop">
          {save.error.message}
        </p>
      )}
    </>
  );
}

/** A number with its name, its unit and what it is for. */
function Value({
  label,
  unit,
  value,
  help,
  onValue,
  min = 0,
  max = 1000,
  placeholder,
}: {
  label: string;
  unit: string;
  value: number | null;
  help: string;
  onValue: (value: number | null) => void;
  min?: number;
  max?: number;
  placeholder?: string;
}) {
  return (
    <p className="flex items-center gap-2">
      <span className="w-32">{label}</span>
      <NumberField
        label={label}
        unit={unit}
        value={value}
        min={min}
        max={max}
        step={1}
        width="w-16"
        placeholder={placeholder}
        onValue={onValue}
      />
      <span className="text-[13px] text-ink-2">{help}</span>
    </p>
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
        Beds are cleared and spools are changed only in these hours, so queues and orders wait
        for them. {hours.length === 0 && "If there are none, somebody is always there."}
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
