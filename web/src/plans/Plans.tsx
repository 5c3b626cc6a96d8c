import { Link } from "react-router";

import { OPEN, usePlans } from "../api/hooks";
import { grams, hours } from "../format";
import { Message } from "../frame/Message";
import { Picture } from "../parts/Picture";

export function Plans() {
  const plans = usePlans();
  if (plans.isPending) return <Message title="Plans" text="Fetching the plans …" />;
  if (plans.error) return <Message title="Plans" text={plans.error.message} again={() => void plans.refetch()} />;
  return (
    <main className="mx-auto max-w-5xl p-5">
      <h1 className="mb-4 text-2xl font-semibold">Plans</h1>
      {plans.data.length === 0 && <p className="card p-6 text-ink-2">No plans yet. Open <Link className="text-fjord underline" to="/parts">Parts</Link> and choose “Plan it …” on one.</p>}
      {plans.data.length > 0 && (
        <table className="card w-full border-collapse">
          <thead>
            <tr className="narrow text-left text-[13px] text-ink-3">
              <th className="p-2" /><th className="p-2">part</th><th className="p-2">plan</th><th className="p-2">on</th><th className="p-2">in</th>
              <th className="p-2 text-right">time h:min</th><th className="p-2 text-right">filament g</th><th className="p-2">state</th>
            </tr>
          </thead>
          <tbody>
            {plans.data.map((plan) => (
              <tr key={plan.id} className="border-t border-hairline hover:bg-paper">
                <td className="p-1"><Picture svg={plan.picture} name={plan.part_name} size={44} /></td>
                <td className="p-2 font-semibold"><Link className="text-fjord underline" to={`/plans/${plan.id}`}>{plan.part_name}</Link></td>
                <td className="p-2">{plan.number}{plan.name && `, ${plan.name}`}</td>
                <td className="p-2">{plan.machine}</td>
                <td className="p-2">{plan.material}</td>
                <td className="p-2 text-right">{plan.time_s === null ? "–" : hours(plan.time_s)}</td>
                <td className="p-2 text-right">{plan.mass_g === null ? "–" : grams(plan.mass_g)}</td>
                <td className="p-2">{OPEN.includes(plan.state) ? "computing …" : plan.state === "done" ? "exact" : plan.state}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}
