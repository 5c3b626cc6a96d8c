import { useState } from "react";
import { Link } from "react-router";

import { OPEN, usePlans } from "../api/hooks";
import { grams, hours } from "../format";
import { Message } from "../frame/Message";
import { useNewBed } from "../beds/useNewBed";
import { Picture } from "../parts/Picture";

export function Plans() {
  const plans = usePlans();
  const newBed = useNewBed();
  const [ticked, setTicked] = useState<readonly number[]>([]);
  if (plans.isPending) return <Message title="Plans" text="Fetching the plans …" />;
  if (plans.error && !plans.data)
    return (
      <Message title="Plans" text={plans.error.message} again={() => void plans.refetch()} />
    );
  return (
    <main className="mx-auto max-w-5xl p-5">
      <header className="mb-4 flex items-center gap-3">
        <h1 className="text-2xl font-semibold">Plans</h1>
        <span className="ml-auto text-[13px] text-ink-2">
          {ticked.length === 0
            ? "Tick plans to put them side by side, the first is the baseline; or on a bed."
            : `${ticked.length} ticked`}
        </span>
        {ticked.length > 0 && (
          <button
            className="quiet min-h-8"
            disabled={newBed.isPending}
            onClick={() =>
              newBed.mutate({
                plans: ticked.flatMap(
                  (key) => plans.data.find((plan) => plan.exact === key)?.id ?? [],
                ),
              })
            }
          >
            Put on a bed
          </button>
        )}
        {ticked.length > 1 && (
          <Link className="action" to={`/compare?versions=${ticked.join(",")}`}>
            Compare {ticked.length} plans
          </Link>
        )}
      </header>
      {newBed.error && (
        <p role="alert" className="mb-2 text-stop">
          {newBed.error.message}
        </p>
      )}
      {plans.data.length === 0 && (
        <p className="card p-6 text-ink-2">
          No plans yet. Open{" "}
          <Link className="text-fjord underline" to="/parts">
            Parts
          </Link>{" "}
          and choose “Plan it …” on one.
        </p>
      )}
      {plans.data.length > 0 && (
        <table className="card w-full border-collapse">
          <thead>
            <tr className="narrow text-left text-[13px] text-ink-3">
              <th className="p-2" />
              <th className="p-2" />
              <th className="p-2">part</th>
              <th className="p-2">plan</th>
              <th className="p-2">on</th>
              <th className="p-2">in</th>
              <th className="p-2 text-right">time h:min</th>
              <th className="p-2 text-right">filament g</th>
              <th className="p-2">state</th>
            </tr>
          </thead>
          <tbody>
            {plans.data.map((plan) => (
              <tr key={plan.id} className="border-t border-hairline hover:bg-paper">
                <td className="p-2">
                  <input
                    type="checkbox"
                    className="accent-ink"
                    aria-label={`Compare plan ${plan.number}`}
                    disabled={
                      !plan.exact || (ticked.length >= 8 && !ticked.includes(plan.exact))
                    }
                    checked={!!plan.exact && ticked.includes(plan.exact)}
                    onChange={(event) =>
                      plan.exact &&
                      setTicked(
                        event.target.checked
                          ? [...ticked, plan.exact]
                          : ticked.filter((key) => key !== plan.exact),
                      )
                    }
                  />
                </td>
                <td className="p-1">
                  <Picture address={plan.picture} name={plan.part_name} size={44} />
                </td>
                <td className="p-2 font-semibold">
                  <Link className="text-fjord underline" to={`/plans/${plan.id}`}>
                    {plan.part_name}
                  </Link>
                </td>
                <td className="p-2">
                  {plan.number}
                  {plan.name && `, ${plan.name}`}
                  {plan.verdict && (
                    <span className="block text-[13px] text-ink-2">{plan.verdict}</span>
                  )}
                </td>
                <td className="p-2">{plan.machine}</td>
                <td className="p-2">{plan.material}</td>
                <td className="p-2 text-right">
                  {plan.time_s === null ? "–" : hours(plan.time_s)}
                </td>
                <td className="p-2 text-right">
                  {plan.mass_g === null ? "–" : grams(plan.mass_g)}
                </td>
                <td className="p-2">
                  {OPEN.includes(plan.state)
                    ? "computing …"
                    : plan.state === "done"
                      ? "exact"
                      : plan.state}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}
