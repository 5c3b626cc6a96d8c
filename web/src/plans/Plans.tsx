import { useMutation, useQueryClient } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { Link } from "react-router";

import { api, data, type PlanRow } from "../api/client";
import { OPEN } from "../api/hooks";
import { day, grams, hours, outcomes } from "../format";
import { Message } from "../frame/Message";
import { FilesButton } from "../library/FilesButton";
import { LibraryBar, More } from "../library/LibraryBar";
import { type PlanSort, usePlanLibrary, useWish, type Wish } from "../library/useLibrary";
import { useRemoval } from "../library/useRemoval";
import { useTicks } from "../library/useTicks";
import { NotDone } from "../library/NotDone";
import { useNewBed } from "../beds/useNewBed";
import { Picture } from "../parts/Picture";
import { ChangePlans } from "./ChangePlans";

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
  ["printed", "last printed", true],
  ["success", "came out well", true],
];
/** Plans that stand side by side at most, and that something is done to at once at most. */
const MOST_BESIDE = 8;
const MOST = 200;

export function Plans() {
  const { wish, setWish, by } = useWish<PlanSort>("created");
  const plans = usePlanLibrary(wish);
  const newBed = useNewBed();
  const ticks = useTicks<PlanRow>();
  const [changing, setChanging] = useState(false);
  const client = useQueryClient();
  const remove = useMutation({
    mutationFn: (ids: readonly number[]) =>
      data(api.POST("/api/plans/several/remove", { body: { plans: [...ids] } })),
    onSettled: () => client.invalidateQueries({ queryKey: ["plans"] }),
  });
  const removal = useRemoval((ids) => remove.mutateAsync(ids).catch(() => null));
  if (plans.isPending) return <Message title="Plans" text="Fetching the plans …" />;
  if (plans.error && !plans.data)
    return (
      <Message title="Plans" text={plans.error.message} again={() => void plans.refetch()} />
    );
  const { rows, total } = plans;
  const shown = rows.filter((plan) => !removal.gone(plan.id));
  const ticked = ticks.all.filter((plan) => !removal.gone(plan.id));
  const exact = ticked.flatMap((plan) => (plan.exact ? [plan.exact] : []));
  const searched = wish.search !== "" || wish.label !== "";
  return (
    <main className="mx-auto max-w-7xl p-5">
      <header className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-2">
        <h1 className="text-2xl font-semibold">Plans</h1>
        <span className="ml-auto text-[13px] text-ink-2">
          {ticked.length === 0
            ? "Tick plans to change, compare, export or remove them, or to put them on a bed."
            : `${ticked.length} ticked`}
        </span>
        {ticked.length > 0 && (
          <>
            <button className="quiet min-h-8" onClick={ticks.clear}>
              tick none
            </button>
            <button
              className="quiet min-h-8"
              disabled={ticked.length > MOST}
              title={ticked.length > MOST ? `at most ${MOST} at once` : undefined}
              onClick={() => setChanging(true)}
            >
              Change …
            </button>
            <FilesButton
              address={`/api/plans/several/file?plans=${ticked.map((one) => one.id).join(",")}`}
              name="plans.zip"
              count={ticked.length}
            />
            <button
              className="quiet min-h-8"
              disabled={ticked.length > MOST}
              onClick={() => {
                removal.remove(
                  ticked.map((one) => one.id),
                  ticked.length === 1 ? "1 plan is" : `${ticked.length} plans are`,
                );
                ticks.clear();
              }}
            >
              Remove
            </button>
            <button
              className="quiet min-h-8"
              disabled={newBed.isPending || exact.length < ticked.length}
              title={
                exact.length < ticked.length ? "one of them is not computed yet" : undefined
              }
              onClick={() => newBed.mutate({ plans: ticked.map((one) => one.id) })}
            >
              Put on a bed
            </button>
          </>
        )}
        {exact.length > 1 && exact.length <= MOST_BESIDE && (
          <Link className="action" to={`/compare?versions=${exact.join(",")}`}>
            Compare {exact.length} plans
          </Link>
        )}
      </header>
      {removal.notes}
      {remove.error && (
        <p role="alert" className="mb-2 text-stop">
          {remove.error.message}
        </p>
      )}
      {remove.data && (
        <NotDone done={`${remove.data.plans.length} removed.`} refused={remove.data.refused} />
      )}
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
          <a className="quiet no-underline" href={tableOf(wish)} download>
            as a table
          </a>
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
      {shown.length > 0 && (
        <div className="overflow-x-auto">
          <table className="card w-full border-collapse">
            <thead>
              <tr className="narrow text-left text-[13px] text-ink-3">
                <th className="p-2">
                  <input
                    type="checkbox"
                    className="accent-ink"
                    aria-label="Tick all that are shown"
                    checked={shown.every(ticks.has)}
                    onChange={(event) => ticks.setShown(shown, event.target.checked)}
                  />
                </th>
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
              {shown.map((plan) => (
                <tr key={plan.id} className="border-t border-hairline hover:bg-paper">
                  <td className="p-2">
                    <input
                      type="checkbox"
                      className="accent-ink"
                      aria-label={`Tick plan ${plan.number}`}
                      checked={ticks.has(plan)}
                      onChange={(event) => ticks.set(plan, event.target.checked)}
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
                  <td className="p-2 whitespace-nowrap">
                    {plan.printed ? day(plan.printed) : "never"}
                  </td>
                  <td className="p-2 whitespace-nowrap">{outcomes(plan)}</td>
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
        </div>
      )}
      {changing && <ChangePlans plans={ticked} onClose={() => setChanging(false)} />}
      <More
        shown={rows.length}
        total={total}
        busy={plans.isFetchingNextPage}
        onMore={() => void plans.fetchNextPage()}
      />
    </main>
  );
}

/** Where all that is searched for lies as a table. */
function tableOf({ search, sort, down, label }: Wish<PlanSort>): string {
  const asked = new URLSearchParams({ search, sort, down: String(down), label });
  return `/api/plans/table?${asked.toString()}`;
}
