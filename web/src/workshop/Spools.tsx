import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Material, type Schemas } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";
import { grams } from "../format";
import { clock } from "../jobs/words";
import { TextField } from "./TextField";
import { EDGE, FJORD, INK_3 } from "../tokens";

type Spool = Schemas["Spool"];

/**
 * The spools of a material: what is left, reserved and taken, the reel's weight, the measured
 * diameter, the flow correction, and the ledger.
 */
export function Spools({ material }: { material: Material }) {
  const client = useQueryClient();
  const again = {
    onSuccess: () =>
      Promise.all(
        ["materials", "ledger"].map((key) => client.invalidateQueries({ queryKey: [key] })),
      ),
  };
  const [open, setOpen] = useState<number | null>(null);
  const change = useMutation({
    mutationFn: ({ id, ...body }: Partial<Schemas["PatchedSpoolRequest"]> & { id: number }) =>
      data(api.PATCH("/api/spools/{id}", { params: { path: { id } }, body })),
    ...again,
  });
  const weigh = useMutation({
    mutationFn: ({ id, gross }: { id: number; gross: number }) =>
      data(api.POST("/api/spools/{id}/weigh", { params: { path: { id } }, body: { gross } })),
    ...again,
  });
  const add = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/materials/{id}/spools", {
          params: { path: { id: material.id } },
          body: {
            label: `${material.name}-${material.spools.length + 1}`,
            colour: "",
            usable_mass: 1000,
            net: 1000,
          },
        }),
      ),
    ...again,
  });
  const remove = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/spools/{id}", { params: { path: { id } } }),
    ...again,
  });
  const wrong = change.error ?? weigh.error ?? add.error ?? remove.error;
  return (
    <div>
      <h3 className="mb-1 font-semibold">Spools</h3>
      {material.spools.length === 0 && <p className="text-ink-2">No spool of it yet.</p>}
      {material.spools.map((spool) => (
        <div
          key={spool.id}
          data-spool={spool.label}
          className="border-b border-hairline py-1.5 text-[13px]"
        >
          <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
            <TextField
              label={`Label of ${spool.label}`}
              value={spool.label}
              width="w-20"
              size="font-semibold"
              onValue={(label) => change.mutate({ id: spool.id, label })}
            />
            <TextField
              label={`Colour of ${spool.label}`}
              value={spool.colour ?? ""}
              width="w-24"
              placeholder="colour"
              onValue={(colour) => change.mutate({ id: spool.id, colour })}
            />
            <span className="flex items-center gap-1">
              left{" "}
              <NumberField
                label={`Left on ${spool.label} in grams`}
                unit="g"
                value={Number(spool.usable_mass.toFixed(2))}
                min={0}
                max={100000}
                step={10}
                width="w-20"
                onValue={(v) => v !== null && change.mutate({ id: spool.id, usable_mass: v })}
              />
            </span>
            <Bar spool={spool} />
            <span className="text-ink-2">
              {grams(spool.reserved)} g reserved, {grams(spool.taken)} g taken
            </span>
            <span className="ml-auto flex gap-1">
              <button
                className="quiet"
                aria-expanded={open === spool.id}
                onClick={() => setOpen(open === spool.id ? null : spool.id)}
              >
                {open === spool.id ? "close" : "ledger …"}
              </button>
              <button
                className="quiet"
                aria-label={`Remove ${spool.label}`}
                onClick={() => confirm(`Remove ${spool.label}?`) && remove.mutate(spool.id)}
              >
                remove
              </button>
            </span>
          </div>
          {open === spool.id && (
            <div className="mt-1 flex flex-col gap-2 border-l-2 border-hairline pl-3">
              <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
                <span className="flex items-center gap-1">
                  diameter{" "}
                  <NumberField
                    label={`Diameter of ${spool.label}`}
                    unit="mm, as measured"
                    value={spool.diameter ?? 1.75}
                    min={0.5}
                    max={5}
                    step={0.01}
                    width="w-14"
                    onValue={(v) => v !== null && change.mutate({ id: spool.id, diameter: v })}
                  />
                </span>
                <span className="flex items-center gap-1">
                  flow{" "}
                  <NumberField
                    label={`Flow of ${spool.label}`}
                    unit="%"
                    value={(spool.figures as Record<string, number>).flow ?? null}
                    min={50}
                    max={150}
                    step={0.5}
                    width="w-14"
                    placeholder="100"
                    onValue={(v) => change.mutate({ id: spool.id, flow: v })}
                  />
                </span>
                <span className="flex items-center gap-1">
                  empty reel{" "}
                  <NumberField
                    label={`Empty reel of ${spool.label}`}
                    unit="g"
                    value={spool.tare ?? null}
                    min={0}
                    max={20000}
                    step={1}
                    width="w-16"
                    placeholder="?"
                    onValue={(v) => change.mutate({ id: spool.id, tare: v })}
                  />
                </span>
                <span className="flex items-center gap-1">
                  when new{" "}
                  <NumberField
                    label={`When new, ${spool.label}`}
                    unit="g"
                    value={spool.net ?? null}
                    min={0}
                    max={100000}
                    step={50}
                    width="w-16"
                    placeholder="?"
                    onValue={(v) => change.mutate({ id: spool.id, net: v })}
                  />
                </span>
                <span className="flex items-center gap-1">
                  on the scale{" "}
                  <NumberField
                    label={`Weighed, ${spool.label} with its reel`}
                    unit="g with its reel"
                    value={null}
                    min={0}
                    max={100000}
                    width="w-16"
                    placeholder="—"
                    onValue={(v) => v !== null && weigh.mutate({ id: spool.id, gross: v })}
                  />
                </span>
              </div>
              <Entries id={spool.id} />
            </div>
          )}
        </div>
      ))}
      <p className="mt-1 flex items-center gap-2">
        <button className="quiet" onClick={() => add.mutate()}>
          + spool
        </button>
        {wrong && (
          <span role="alert" className="text-[13px] text-stop">
            {wrong.message}
          </span>
        )}
      </p>
    </div>
  );
}

/** What is left as a bar of what was on it when new: free and reserved told apart. */
function Bar({ spool }: { spool: Spool }) {
  const whole = Math.max(spool.net ?? 0, spool.usable_mass, 1);
  const free = Math.max(spool.usable_mass - spool.reserved, 0);
  return (
    <svg
      width="120"
      height="12"
      role="img"
      aria-label={`${grams(free)} g free, ${grams(spool.reserved)} g reserved`}
    >
      <rect x="0.5" y="1.5" width="119" height="9" fill="none" stroke={EDGE} />
      <rect x="0.5" y="1.5" width={(119 * free) / whole} height="9" fill={FJORD} />
      <rect
        x={0.5 + (119 * free) / whole}
        y="3.5"
        width={(119 * Math.min(spool.reserved, spool.usable_mass)) / whole}
        height="5"
        fill={INK_3}
      />
    </svg>
  );
}

function Entries({ id }: { id: number }) {
  const entries = useQuery({
    queryKey: ["ledger", id],
    queryFn: () => data(api.GET("/api/spools/{id}/ledger", { params: { path: { id } } })),
  });
  if (!entries.data)
    return <p className="text-ink-2">{entries.error?.message ?? "Opening the ledger …"}</p>;
  if (entries.data.length === 0)
    return <p className="text-ink-2">Nothing was taken off it or put right yet.</p>;
  return (
    <table className="w-full max-w-3xl">
      <caption className="sr-only">Ledger</caption>
      <thead>
        <tr className="narrow text-left text-[12px] text-ink-3">
          <th className="font-normal">when</th>
          <th className="font-normal">what</th>
          <th className="text-right font-normal">g</th>
          <th className="text-right font-normal">left g</th>
          <th className="pl-4 font-normal">why</th>
        </tr>
      </thead>
      <tbody>
        {entries.data.map((entry) => (
          <tr key={entry.id} className="border-t border-hairline">
            <td className="whitespace-nowrap">{clock(entry.created)}</td>
            <td>{entry.kind}</td>
            <td className="text-right">
              {entry.grams > 0 ? "+" : "−"}
              {Math.abs(entry.grams).toFixed(2)}
            </td>
            <td className="text-right">{entry.left_after.toFixed(2)}</td>
            <td className="pl-4 text-ink-2">{entry.note}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
