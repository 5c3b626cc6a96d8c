import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";

import { api, data } from "../api/client";
import { usePlans } from "../api/hooks";
import { Narrow } from "../library/Narrow";
import { Message } from "../frame/Message";
import { TextField } from "../workshop/TextField";
import { OverlaidLanes } from "./OverlaidLanes";
import { SplitStage } from "./SplitStage";
import { featureRows, Figures, Findings, Settings } from "./Tables";
import { type ComparedPlan, titleOf, useCompared } from "./useCompared";

/**
 * Plans side by side: figures, lanes over each other, stages at the same height, settings that
 * differ, findings that come and go. Made to be printed too.
 */
export function ComparePage() {
  const [search, setSearch] = useSearchParams();
  const versions = (search.get("versions") ?? "")
    .split(",")
    .map(Number)
    .filter(Number.isFinite)
    .filter((key) => key > 0);
  const compared = useCompared(versions);
  const [height, setHeight] = useState<number | null>(null);
  const [order, setOrder] = useState<number | null>(null);
  const [right, setRight] = useState<number | null>(null);
  const put = (next: readonly number[]) => {
    setOrder(null);
    setSearch({ versions: next.join(",") });
  };
  if (versions.length === 0)
    return (
      <Message
        title="Compare"
        text="Choose plans to stand side by side: tick them under Plans, or open Compare on a desk."
      />
    );
  const found = compared.data;
  if (!found)
    return (
      <Message
        title="Compare"
        text={compared.error?.message ?? "Putting the plans side by side …"}
        {...(compared.error ? { again: () => void compared.refetch() } : {})}
      />
    );
  const top = Math.max(...found.plans.map((plan) => plan.tops_mm.at(-1) ?? 0));
  const z = height ?? 0.62 * top;
  const [base] = found.plans;
  const other = found.plans.find((plan) => plan.version === right) ?? found.plans[1];
  const onOrder = (k: number) => setOrder(order === k ? null : k);
  const sorted = order === null ? {} : { order };
  return (
    <main className="flex flex-col gap-4 p-4">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-2xl font-semibold">
          {found.plans.every((plan) => plan.part === base?.part) ? `${base?.part}: ` : ""}
          {found.plans.length} {found.plans.length === 1 ? "plan" : "plans side by side"}
        </h1>
        <span className="ml-auto flex gap-2 print:hidden">
          <Add chosen={versions} onAdd={(version) => put([...versions, version])} />
          <button className="quiet" onClick={() => window.print()}>
            Print
          </button>
          <a
            className="quiet"
            href={`/api/compare/file?as=csv&versions=${versions.join(",")}`}
            download="compared.csv"
          >
            CSV
          </a>
          <a
            className="quiet"
            href={`/api/compare?versions=${versions.join(",")}`}
            download="compared.json"
          >
            JSON
          </a>
        </span>
      </header>
      <ul className="grid grid-cols-[repeat(auto-fit,minmax(220px,1fr))] gap-2">
        {found.plans.map((plan, k) => (
          <PlanCard
            key={plan.version}
            plan={plan}
            baseline={k === 0}
            onBaseline={() =>
              put([plan.version, ...versions.filter((key) => key !== plan.version)])
            }
            onHide={
              versions.length > 1
                ? () => put(versions.filter((key) => key !== plan.version))
                : null
            }
          />
        ))}
      </ul>
      <section className="card p-3" aria-label="Figures">
        <Figures
          found={found}
          caption="Figures"
          first="figure"
          rows={found.totals.map((row) => ({
            key: row.key,
            label: row.label,
            values: row.values,
            unit: row.unit,
          }))}
        />
      </section>
      <section className="card p-3" aria-label="Lanes">
        <h2 className="mb-1 font-semibold">
          Lanes over each other{" "}
          <span className="font-normal text-ink-2">at {z.toFixed(2)} mm</span>
        </h2>
        <OverlaidLanes found={found} z={z} onHeight={setHeight} />
      </section>
      {base && other && (
        <section className="card p-3 print:hidden" aria-label="Stages">
          <div className="mb-1 flex flex-wrap items-center gap-2">
            <h2 className="font-semibold">At the same height, from the same side</h2>
            {found.plans.length > 2 && (
              <select
                className="field"
                aria-label="Plan at the right"
                value={other.version}
                onChange={(event) => setRight(Number(event.target.value))}
              >
                {found.plans.slice(1).map((plan) => (
                  <option key={plan.version} value={plan.version}>
                    {titleOf(plan)}
                  </option>
                ))}
              </select>
            )}
          </div>
          <SplitStage plans={[base, other]} z={z} />
        </section>
      )}
      <div className="grid grid-cols-[repeat(auto-fit,minmax(440px,1fr))] gap-4">
        <section className="card p-3" aria-label="Time by feature">
          <h2 className="mb-1 font-semibold">Time by feature</h2>
          <Figures
            found={found}
            caption="Time by feature"
            first="feature"
            unit="s"
            rows={featureRows(found, "seconds")}
            {...sorted}
            onOrder={onOrder}
          />
        </section>
        <section className="card p-3" aria-label="Grams by feature">
          <h2 className="mb-1 font-semibold">Filament by feature</h2>
          <Figures
            found={found}
            caption="Filament by feature"
            first="feature"
            unit="g"
            rows={featureRows(found, "grams")}
            {...sorted}
            onOrder={onOrder}
          />
        </section>
      </div>
      {found.bands.length > 0 && (
        <section className="card p-3" aria-label="Time by band">
          <h2 className="mb-1 font-semibold">Time by band</h2>
          <Figures
            found={found}
            caption="Time by band"
            first="band"
            unit="s"
            rows={found.bands.map((row) => ({
              key: row.name,
              label: row.name,
              values: row.seconds,
            }))}
          />
        </section>
      )}
      <section className="card p-3" aria-label="Settings that differ">
        <h2 className="mb-1 font-semibold">Settings that differ</h2>
        <Settings found={found} />
      </section>
      <section className="card p-3" aria-label="Findings that differ">
        <h2 className="mb-1 font-semibold">Findings that come and go</h2>
        <Findings found={found} />
      </section>
    </main>
  );
}

function PlanCard({
  plan,
  baseline,
  onBaseline,
  onHide,
}: {
  plan: ComparedPlan;
  baseline: boolean;
  onBaseline: () => void;
  onHide: (() => void) | null;
}) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (body: { name?: string; verdict?: string }) =>
      data(api.PATCH("/api/plans/{id}", { params: { path: { id: plan.plan } }, body })),
    onSuccess: () =>
      Promise.all(
        ["compared", "plans", "plan"].map((key) =>
          client.invalidateQueries({ queryKey: [key] }),
        ),
      ),
  });
  return (
    <li className="card flex flex-col gap-1 p-2" data-compared={plan.version}>
      <p className="flex items-center gap-2">
        <TextField
          label={`Name of plan ${plan.number}`}
          value={titleOf(plan)}
          width="min-w-0 flex-1"
          size="font-semibold"
          onValue={(name) => save.mutate({ name })}
        />
        {onHide && (
          <button
            className="quiet print:hidden"
            aria-label={`Hide ${titleOf(plan)}`}
            onClick={onHide}
          >
            hide
          </button>
        )}
      </p>
      <p className="narrow text-[13px] text-ink-2">
        <Link className="underline" to={`/plans/${plan.plan}`}>
          {plan.part}, plan {plan.number}, version {plan.version_number}
        </Link>{" "}
        · {plan.machine} · {plan.material}
      </p>
      <TextField
        label={`Verdict on plan ${plan.number}`}
        value={plan.verdict}
        width="w-full"
        placeholder="verdict"
        mayBeEmpty
        onValue={(verdict) => save.mutate({ verdict })}
      />
      {baseline ? (
        <span className="text-[13px] text-ink-2">the baseline</span>
      ) : (
        <button className="quiet self-start print:hidden" onClick={onBaseline}>
          make it the baseline
        </button>
      )}
    </li>
  );
}

/** More plans to put beside those that stand there. */
function Add({
  chosen,
  onAdd,
}: {
  chosen: readonly number[];
  onAdd: (version: number) => void;
}) {
  const [search, setSearch] = useState("");
  const plans = usePlans({ search });
  const rest = (plans.data ?? []).filter((plan) => plan.exact && !chosen.includes(plan.exact));
  if (rest.length === 0 && !search) return null;
  return (
    <>
      <Narrow
        what="plans"
        found={plans.data?.length ?? 0}
        search={search}
        onSearch={setSearch}
      />
      <select
        className="field"
        aria-label="Add a plan"
        value=""
        onChange={(event) => onAdd(Number(event.target.value))}
      >
        <option value="">{rest.length ? "+ plan …" : "none is called so"}</option>
        {rest.map((plan) => (
          <option key={plan.id} value={plan.exact ?? 0}>
            {plan.part_name}, {plan.name || `plan ${plan.number}`}
          </option>
        ))}
      </select>
    </>
  );
}
