import { Link } from "react-router";

import type { Plan } from "../api/client";
import { usePlans } from "../api/hooks";
import { featureRows, Figures, Findings, Settings } from "./Tables";
import { useCompared } from "./useCompared";

const MAIN = [
  "time_s.total",
  "filament.mass_g",
  "filament.cost",
  "surface.p95_um",
  "strength.mean_stiffness",
];

/**
 * What differs between the plan on the desk and its baseline, and the way to more of them side by
 * side.
 */
export function ComparePanel({ plan }: { plan: Plan }) {
  const plans = usePlans({ part: plan.part.id });
  const base = plan.baseline && plan.baseline.id !== plan.exact?.id ? plan.baseline.id : null;
  const mine = plan.exact?.id ?? null;
  const compared = useCompared(base && mine ? [base, mine] : []);
  const others = (plans.data ?? [])
    .filter((row) => row.id !== plan.id && row.exact && row.exact !== base)
    .map((row) => row.exact as number);
  const all = [base, mine, ...others].filter((key): key is number => key !== null).slice(0, 8);
  const found = base && mine ? compared.data : null;
  return (
    <div className="flex flex-col gap-3 p-3">
      <p className="flex flex-wrap items-center gap-2">
        {!base && (
          <span className="text-ink-2">
            This plan is its own baseline: change something, or make another plan the baseline
            on the trade-off.
          </span>
        )}
        {all.length > 1 && (
          <Link className="action ml-auto" to={`/compare?versions=${all.join(",")}`}>
            {all.length} plans side by side
          </Link>
        )}
      </p>
      {compared.error && (
        <p role="alert" className="text-stop">
          {compared.error.message}
        </p>
      )}
      {found && (
        <>
          <Figures
            found={found}
            caption="Figures"
            first="figure"
            rows={found.totals
              .filter((row) => MAIN.includes(row.key))
              .map((row) => ({
                key: row.key,
                label: row.label,
                values: row.values,
                unit: row.unit,
              }))}
          />
          <Settings found={found} />
          <Figures
            found={found}
            caption="Time by feature"
            first="time by feature"
            unit="s"
            rows={featureRows(found, "seconds")}
          />
          <Findings found={found} />
        </>
      )}
    </div>
  );
}
