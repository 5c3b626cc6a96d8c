import { clsx } from "clsx";
import { useState } from "react";
import { Link } from "react-router";

import type { PlanRow } from "../api/client";
import { OPEN } from "../api/hooks";
import { grams, hours } from "../format";
import { Message } from "../frame/Message";
import { LibraryBar, More } from "../library/LibraryBar";
import { type PlanSort, usePlanLibrary, useWish } from "../library/useLibrary";
import { useNewBed } from "../beds/useNewBed";
import { Picture } from "../parts/Picture";

/** Columns that sort: by what, their words, which way first, and whether figures stand right. */
const COLUMNS: readonly (readonly [PlanSort, string, boolean, boolean?])[] = [
  ["part", "part", false],
  ["plan", "plan", true],
  ["machine", "on", false],
  ["material", "in", false],
  ["time", "time h:min", true, true],
  ["mass", "filament g", true, true],
  ["cost", "money", true, true],
  ["error", "P95 µm", true, true],
  ["findings", "findings", true],
];

/** A plan that was ticked, and its exact version then. */
interface Ticked {
  plan: number;
  exact: number;
}

export function Plans() {
  const { wish, setWish, by } = useWish<PlanSort>("created");
  const plans = usePlanLibrary(wish);
  const newBed = useNewBed();
  // what is ticked stays so when something else is searched for
  const [ticked, setTicked] = useState<readonly Ticked[]>([]);
  if (plans.isPending) return <Message title="Plans" text="Fetching the plans …" />;
  if (plans.error && !plans.data)
    return (
      <Message title="Plans" text={plans.error.message} again={() => void plans.refetch()} />
    );
  const { rows, total } = plans;
  const isTicked = (plan: PlanRow) => ticked.some((one) => one.plan === plan.id);
  const searched = wish.search !== "" || wish.label !== "";
  return (
    <main className="mx-auto max-w-6xl p-5">
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
            onClick={() => newBed.mutate({ plans: ticked.map((one) => one.plan) })}
          >
            Put on a bed
          </button>
        )}
        {ticked.length > 1 && (
          <Link
            className="action"
            to={`/compare?versions=${ticked.map((one) => one.exact).join(",")}`}
          >
            Compare {ticked.length} plans
          </Link>
        )}
      </header>
      {newBed.error && (
        <p role="alert" className="mb-2 text-stop">
          {newBed.error.message}
        </p>
      )}
      {(total > 0 || searched) && (
        <LibraryBar wish={wish} onWish={setWish} total={total} what={["plan", "plans"]}>
          <button
            className="quiet"
            disabled={wish.sort === "created" && wish.down}
            onClick={() => setWish({ ...wish, sort: "created", down: true })}
          >
            newest first
          </button>
        </LibraryBar>
      )}
      {total === 0 && searched && (
        <p className="card p-6 text-ink-2">
          No plan has all of these words in its part, name, verdict, machine, material or
          label.{" "}
          <button
            className="quiet"
            onClick={() => setWish({ ...wish, search: "", label: "" })}
          >
            show all
          </button>
        </p>
      )}
      {total === 0 && !searched && (
        <p className="card p-6 text-ink-2">
          No plans yet. Open{" "}
          <Link className="text-fjord underline" to="/parts">
            Parts
          </Link>{" "}
          and choose “Plan it …” on one.
        </p>
      )}
      {rows.length > 0 && (
        <table className="card w-full border-collapse">
          <thead>
            <tr className="narrow text-left text-[13px] text-ink-3">
              <th className="p-2" />
              <th className="p-2" />
              {COLUMNS.map(([sort, words, down, right]) => (
                <th
                  key={words}
                  className={clsx("p-2 font-normal", right && "text-right")}
                  aria-sort={
                    wish.sort !== sort ? undefined : wish.down ? "descending" : "ascending"
                  }
                >
                  <button
                    className="narrow cursor-pointer border-0 bg-transparent p-0 underline"
                    onClick={() => by(sort, down)}
                  >
                    {words}
                    {wish.sort === sort && (wish.down ? " ↓" : " ↑")}
                  </button>
                </th>
              ))}
              <th className="p-2 font-normal">state</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((plan) => (
              <tr key={plan.id} className="border-t border-hairline hover:bg-paper">
                <td className="p-2">
                  <input
                    type="checkbox"
                    className="accent-ink"
                    aria-label={`Compare plan ${plan.number}`}
                    disabled={!plan.exact || (ticked.length >= 8 && !isTicked(plan))}
                    checked={isTicked(plan)}
                    onChange={(event) =>
                      plan.exact &&
                      setTicked(
                        event.target.checked
                          ? [...ticked, { plan: plan.id, exact: plan.exact }]
                          : ticked.filter((one) => one.plan !== plan.id),
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
                <td className="p-2 text-right">
                  {plan.cost == null ? "–" : plan.cost.toFixed(2)}
                </td>
                <td className="p-2 text-right">
                  {plan.surface ? Math.round(plan.surface.p95_um) : "–"}
                </td>
                <td className="p-2">
                  {plan.stops == null ? (
                    "–"
                  ) : plan.stops + (plan.looks ?? 0) === 0 ? (
                    "none"
                  ) : (
                    <>
                      {plan.stops > 0 && <b className="text-stop">{plan.stops} stop </b>}
                      {(plan.looks ?? 0) > 0 && `${plan.looks} look`}
                    </>
                  )}
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
      <More
        shown={rows.length}
        total={total}
        busy={plans.isFetchingNextPage}
        onMore={() => void plans.fetchNextPage()}
      />
    </main>
  );
}
