import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Machine, type Schemas } from "../api/client";
import { useMachines, useMaterials, useWorkshop } from "../api/hooks";
import { Message } from "../frame/Message";

export function WorkshopScreen() {
  const workshop = useWorkshop();
  const machines = useMachines();
  const materials = useMaterials();
  if (!workshop.data || !machines.data || !materials.data) {
    const error = workshop.error ?? machines.error ?? materials.error;
    return <Message title="Workshop" text={error?.message ?? "Opening the cupboards …"} />;
  }
  return (
    <main className="mx-auto flex max-w-5xl flex-col gap-5 p-5">
      <header>
        <h1 className="text-2xl font-semibold">{workshop.data.name}</h1>
        {workshop.data.sample && <p className="text-ink-2">The sample workshop: machines, materials, spools and parts are made up.</p>}
      </header>
      <NameTemplate key={workshop.data.name_template} workshop={workshop.data} />
      <section>
        <h2 className="mb-2 text-lg font-semibold">Machines</h2>
        <table className="card w-full border-collapse">
          <thead><tr className="narrow text-left text-[13px] text-ink-3"><th className="p-2">machine</th><th className="p-2">bed mm</th><th className="p-2">height mm</th><th className="p-2">nozzles mm</th><th className="p-2">hottest nozzle, bed °C</th><th className="p-2">name length</th><th className="p-2">estimates</th></tr></thead>
          <tbody>
            {machines.data.map((machine) => {
              const f = machine.figures as Record<string, number | string>;
              return (
                <tr key={machine.id} className="border-t border-hairline">
                  <td className="p-2 font-semibold">{machine.name}</td>
                  <td className="p-2">{f.bed === "round" ? `Ø ${f.size_x}` : `${f.size_x} × ${f.size_y}`}</td>
                  <td className="p-2">{f.size_z}</td>
                  <td className="p-2">{machine.nozzles.map((nozzle) => nozzle.bore).join(", ")}</td>
                  <td className="p-2">{f.hottest_nozzle}, {f.hottest_bed}</td>
                  <td className="p-2">{f.name_limit} characters</td>
                  <td className="p-2"><Learnt machine={machine} /></td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </section>
      <section>
        <h2 className="mb-2 text-lg font-semibold">Materials and spools</h2>
        <table className="card w-full border-collapse">
          <thead><tr className="narrow text-left text-[13px] text-ink-3"><th className="p-2">material</th><th className="p-2">nozzle °C</th><th className="p-2">bed °C</th><th className="p-2">fan %</th><th className="p-2">flow mm³/s</th><th className="p-2">€/kg</th><th className="p-2">spools, left on them</th></tr></thead>
          <tbody>
            {materials.data.map((material) => {
              const f = material.figures as Record<string, number>;
              return (
                <tr key={material.id} className="border-t border-hairline align-top">
                  <td className="p-2 font-semibold">{material.name}</td>
                  <td className="p-2">{f.nozzle_temp}</td><td className="p-2">{f.bed_temp}</td><td className="p-2">{f.fan}</td><td className="p-2">{f.max_flow}</td><td className="p-2">{f.price}</td>
                  <td className="p-2">{material.spools.map((spool) => <SpoolLine key={`${spool.id} ${spool.usable_mass}`} spool={spool} />)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </section>
    </main>
  );
}

/** What a machine's finished jobs told about its estimates, and the way back. */
function Learnt({ machine }: { machine: Machine }) {
  const client = useQueryClient();
  const set = useMutation({
    mutationFn: (on: boolean) => data((on ? api.POST : api.DELETE)("/api/machines/{id}/learnt", { params: { path: { id: machine.id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["machines"] }),
  });
  const { learnt } = machine;
  if (!learnt) return <span className="text-[13px] text-ink-2">as it states itself; three finished jobs with their time correct them <button className="quiet" onClick={() => set.mutate(true)}>look again</button></span>;
  const share = Math.round(1000 * Math.abs(learnt.before)) / 10;
  return (
    <span className="text-[13px]" data-learnt={machine.name}>
      ran <b>{share} % {learnt.before > 0 ? "short" : "long"}</b>; corrected from {learnt.jobs} jobs: reaches {Math.round(100 * learnt.factor)} % of its accelerations, {learnt.layer_s.toFixed(2)} s more a layer, now within ±{(100 * learnt.spread).toFixed(1)} %{" "}
      <button className="quiet" onClick={() => set.mutate(false)}>take back</button>
    </span>
  );
}

function NameTemplate({ workshop }: { workshop: Schemas["Workshop"] }) {
  const client = useQueryClient();
  const [template, setTemplate] = useState(workshop.name_template ?? "");
  const save = useMutation({
    mutationFn: () => data(api.PATCH("/api/workshop", { body: { name_template: template } })),
    onSuccess: (saved) => client.setQueryData(["workshop"], saved),
  });
  return (
    <section className="card p-4">
      <h2 className="text-lg font-semibold">File names</h2>
      <p className="mb-2 text-[13px] text-ink-2">
        Fields: {Object.entries(workshop.template_fields).map(([name, what]) => <span key={name} className="mr-2 inline-block" title={what}><code>{`{${name}}`}</code></span>)}
      </p>
      <form className="flex flex-wrap gap-2" onSubmit={(event) => { event.preventDefault(); save.mutate(); }}>
        <input className="field min-w-80 flex-1" aria-label="File name template" value={template} onChange={(event) => setTemplate(event.target.value)} aria-invalid={!!save.error} />
        <button className="quiet" disabled={template === workshop.name_template || save.isPending}>Keep</button>
      </form>
      {save.error && <p role="alert" className="mt-1 text-[13px] text-stop">{save.error.message}</p>}
    </section>
  );
}

function SpoolLine({ spool }: { spool: Schemas["Spool"] }) {
  const client = useQueryClient();
  const [mass, setMass] = useState(String(spool.usable_mass));
  const save = useMutation({
    mutationFn: () => data(api.PATCH("/api/spools/{id}", { params: { path: { id: spool.id } }, body: { usable_mass: Number(mass) } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["materials"] }),
  });
  const commit = () => { if (mass.trim() && Number(mass) !== spool.usable_mass) save.mutate(); };
  return (
    <p className="flex items-center gap-2 py-0.5">
      <b className="w-10">{spool.label}</b><span className="w-24 text-ink-2">{spool.colour}</span>
      <input className="field w-20 text-right" inputMode="decimal" aria-label={`Left on ${spool.label} in grams`} value={mass} aria-invalid={!!save.error}
        onChange={(event) => setMass(event.target.value)} onBlur={commit} onKeyDown={(event) => event.key === "Enter" && commit()} /> g
      {save.error && <span role="alert" className="text-[13px] text-stop">{save.error.message}</span>}
    </p>
  );
}
